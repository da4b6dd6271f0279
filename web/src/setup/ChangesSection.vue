<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { answer, api } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import ChangeList from './ChangeList.vue'

const { data, error } = useQuery({
  queryKey: ['changes'],
  queryFn: () => answer(api.GET('/api/v1/changes', { params: { query: { limit: 300 } } })),
})
</script>

<template>
  <h1>What was changed</h1>
  <p class="quiet">The newest 300 changes of what is set up, limits and codebooks included.</p>
  <ProblemNote :error="error" />
  <ChangeList v-if="data?.length" :changes="data" named />
  <EmptyState v-else-if="data" title="Nothing was changed yet">
    Every change of the setup is kept here, with who made it and when.
  </EmptyState>
</template>
