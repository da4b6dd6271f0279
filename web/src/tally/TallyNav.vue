<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import PartsNav from '../common/PartsNav.vue'

const route = useRoute()
const parts = [
  { path: '/tally', name: 'Figures' },
  { path: '/tally/backlog', name: 'Backlog' },
  { path: '/tally/downtime', name: 'Downtime' },
  { path: '/tally/cost', name: 'Cost' },
  { path: '/tally/mix', name: 'Work mix' },
  { path: '/tally/changed', name: 'What changed' },
  { path: '/tally/years', name: 'Year by year' },
  { path: '/headlines', name: 'Headlines' },
]
const shown = computed(() => parts.map((part) => ({ ...part, here: route.path === part.path })))
</script>

<template>
  <PartsNav name="Tally" :parts="shown" />
</template>
