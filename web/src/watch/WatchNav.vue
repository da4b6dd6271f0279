<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import PartsNav from '../common/PartsNav.vue'

const route = useRoute()
const parts = [
  { path: '/watch', name: 'Meters' },
  { path: '/alarms', name: 'Alarms now' },
  { path: '/alarms/performance', name: 'Alarm performance' },
  { path: '/families', name: 'Families' },
]
const here = (path: string) => (path === '/families' ? route.path.startsWith(path) : route.path === path)
const shown = computed(() => parts.map((part) => ({ ...part, here: here(part.path) })))
</script>

<template>
  <PartsNav name="Watch" :parts="shown" />
</template>
