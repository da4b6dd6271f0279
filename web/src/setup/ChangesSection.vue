<script setup lang="ts">
import { changes } from './queries/master'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useSearch } from '../common/useSearch'
import ChangeList from './ChangeList.vue'

const { read } = useAddress()
const text = useSearch()
const { data, error } = useQuery(() => ({
  ...changes({ limit: 300, text: read('text') || undefined }),
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <h1>What was changed, and who came in</h1>
  <p class="quiet">
    The newest 300 changes of what is set up, limits and codebooks included, and of sessions and keys, the
    refused ones too.
  </p>
  <input
    v-model="text"
    class="line search"
    type="search"
    name="changes-text"
    aria-label="Search changes"
    placeholder="A code, a name, or what was done: session refused"
  />
  <ProblemNote :error="error" />
  <ChangeList v-if="data?.length" :changes="data" named />
  <EmptyState v-else-if="data && read('text')" title="Nothing of that kind was done">
    Each word may stand in what was done, to what, or by whom.
  </EmptyState>
  <EmptyState v-else-if="data" title="Nothing was changed yet">
    Every change of the setup is kept here, with who made it and when.
  </EmptyState>
</template>

<style scoped>
.search {
  max-width: 460px;
  margin: 4px 0 10px;
}
</style>
