<script setup lang="ts">
import { changes } from './queries/master'
import { useQuery } from '@tanstack/vue-query'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import ChangeList from './ChangeList.vue'

const { data, error } = useQuery(changes({ limit: 300 }))
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
