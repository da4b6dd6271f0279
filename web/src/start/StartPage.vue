<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { answer, api } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'
import FirstSteps from './FirstSteps.vue'
import FirstMinute from './FirstMinute.vue'

const { data, error } = useQuery({ queryKey: ['start'], queryFn: () => answer(api.GET('/api/v1/start')) })
</script>

<template>
  <ProblemNote :error="error" />
  <FirstMinute v-if="data && (data.risk || data.lesson)" :start="data" />
  <FirstSteps v-else-if="data" :counts="data.counts" />
</template>
