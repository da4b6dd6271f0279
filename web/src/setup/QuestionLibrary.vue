<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { ref } from 'vue'
import type { Schemas } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import TextField from '../common/fields/TextField.vue'
import { count } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { askWords } from './check'
import { askedElsewhere } from './queries/checks'

/** Questions that other check sheets ask: each is taken with a press, as often as one likes. */
const emit = defineEmits<{ take: [question: Schemas['LibraryQuestion']]; close: [] }>()
const text = ref('')
const searched = refDebounced(text, 200)
const { data, error } = useQuery(() => ({
  ...askedElsewhere(searched.value),
  placeholderData: keepPreviousData,
}))
type Row = Schemas['LibraryQuestion']
const taken = ref<Row[]>([])
function take(row: Row) {
  taken.value = [...taken.value, row]
  emit('take', row)
}
const bandOf = ({ question: { low, high } }: Row) =>
  [low != null && `at least ${low}`, high != null && `at most ${high}`].filter(Boolean).join(', ')
const meansOf = (row: Row) => {
  const { asks, rules } = row.question
  const unit = asks.kind === 'number' ? asks.unit : ''
  const raises = rules?.length ? count(rules.length, 'answer raises work', 'answers raise work') : ''
  return [askWords[asks.kind], unit, bandOf(row), raises].filter(Boolean).join(', ')
}
</script>

<template>
  <ElDialog
    :model-value="true"
    title="Questions that are asked elsewhere"
    width="min(720px, 96vw)"
    @close="emit('close')"
  >
    <TextField v-model="text" label="Words of the question" name="library-text" />
    <ProblemNote :error="error" />
    <ul v-if="data?.length" data-test="library">
      <li v-for="row in data" :key="JSON.stringify(row.question)">
        <span>
          <strong>{{ row.question.text }}</strong>
          <span class="quiet small">{{ meansOf(row) }}</span>
          <span class="quiet small">asked by {{ row.sheets.join(', ') }}</span>
        </span>
        <button type="button" class="act" data-test="take-question" @click="take(row)">
          {{ taken.includes(row) ? 'Taken, once more' : 'Take it' }}
        </button>
      </li>
    </ul>
    <EmptyState v-else-if="data" title="Nobody asks that yet">
      What a check sheet asks stands here, so that the next one asks it alike.
    </EmptyState>
    <template #footer><ElButton type="primary" @click="emit('close')">Enough</ElButton></template>
  </ElDialog>
</template>

<style scoped>
ul {
  max-height: 52vh;
  margin: 12px 0 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}

li {
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}

li > span {
  display: grid;
}

.act {
  flex: none;
}
</style>
