<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useAddress } from '../common/useAddress'

const { to } = useAddress()
const route = useRoute()
const parts = [
  { path: '/watch', name: 'Meters' },
  { path: '/alarms', name: 'Alarms now' },
  { path: '/alarms/performance', name: 'Alarm performance' },
  { path: '/families', name: 'Families' },
]
const here = (path: string) => (path === '/families' ? route.path.startsWith(path) : route.path === path)
</script>

<template>
  <nav class="parts no-print" aria-label="Watch">
    <RouterLink
      v-for="part in parts"
      :key="part.path"
      :to="to(part.path)"
      :class="{ here: here(part.path) }"
      :aria-current="here(part.path) ? 'page' : undefined"
      >{{ part.name }}</RouterLink
    >
  </nav>
</template>
