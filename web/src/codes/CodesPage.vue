<script setup lang="ts">
import { codebook, codebooks } from '../common/queries/codes'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import CodebookEditor from './CodebookEditor.vue'

const props = defineProps<{
  /** Code of the codebook shown; the first one without. */
  book?: string
}>()
const { to } = useAddress()

const books = useQuery(codebooks())
const chosen = computed(() => props.book || books.data.value?.[0]?.code || '')
const view = useQuery(() => ({ ...codebook(chosen.value), enabled: chosen.value !== '' }))
</script>

<template>
  <div class="screen">
    <nav aria-label="Codebooks">
      <h2>Codebooks</h2>
      <RouterLink
        v-for="one in books.data.value"
        :key="one.code"
        :to="to(`/codes/${one.code}`)"
        :class="{ here: one.code === chosen }"
      >
        <strong>{{ one.name }}</strong>
        <span class="quiet small">
          {{ one.problems }} problems, {{ one.causes }} causes, {{ one.remedies }} remedies; used
          {{ one.used }} times
        </span>
      </RouterLink>
    </nav>
    <div>
      <ProblemNote :error="books.error.value ?? view.error.value" />
      <CodebookEditor v-if="view.data.value" :key="chosen" :view="view.data.value" />
      <EmptyState v-else-if="books.isSuccess.value && !books.data.value?.length" title="No codebooks yet">
        A codebook holds the problems, causes and remedies of one equipment class.
        <RouterLink :to="to('/setup/files/codebooks')">Import the first one from a file</RouterLink>, then
        edit it here.
      </EmptyState>
    </div>
  </div>
</template>

<style scoped>
.screen {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 36px;
}

nav a {
  display: block;
  padding: 8px;
  border-bottom: 1px solid var(--rule);
  color: var(--ink);
}

nav a:hover {
  background: var(--paper-2);
  text-decoration: none;
}

nav .here {
  background: var(--accent-soft);
}

nav h2 {
  padding-bottom: 6px;
  border-bottom: 1.5px solid var(--ink);
}

.quiet {
  display: block;
}

@container screen (max-width: 760px) {
  .screen {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
