<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import PartsNav from '../common/PartsNav.vue'

const route = useRoute()
const parts = [
  { path: '/work', name: 'All work' },
  { path: '/work/week', name: 'The week' },
  { path: '/work/year', name: 'The year ahead' },
  { path: '/work/decisions', name: 'Decisions' },
]
const shown = computed(() => parts.map((part) => ({ ...part, here: route.path === part.path })))
</script>

<template>
  <PartsNav name="Work" :parts="shown" />
</template>
