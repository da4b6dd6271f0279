<script setup lang="ts">
import { computed, ref } from 'vue'
import type { CodebookView, CodeNode } from '../common/api'

const props = defineProps<{ book: CodebookView }>()
const problem = defineModel<string>('problem', { required: true })
const cause = defineModel<string>('cause', { required: true })
const remedy = defineModel<string>('remedy', { required: true })

/** Active ones, the most used first. */
function sorted(nodes: CodeNode[] | undefined, path: string): CodeNode[] {
  const used = (node: CodeNode) => props.book.used[path + node.code] ?? 0
  return (nodes ?? []).filter((node) => node.status !== 'retired').sort((a, b) => used(b) - used(a))
}
const problems = computed(() => sorted(props.book.problems, ''))
const chosenProblem = computed(() => props.book.problems.find((node) => node.code === problem.value))
const causes = computed(() => sorted(chosenProblem.value?.below, `${problem.value}/`))
const chosenCause = computed(() => causes.value.find((node) => node.code === cause.value))
const remedies = computed(() => sorted(chosenCause.value?.below, `${problem.value}/${cause.value}/`))

function choose(level: 'problem' | 'cause' | 'remedy', code: string) {
  // Pressed once more, it is chosen anew.
  const isChosen = { problem, cause, remedy }[level].value === code
  if (isChosen) code = ''
  if (level === 'problem') [problem.value, cause.value, remedy.value] = [code, '', '']
  else if (level === 'cause') [cause.value, remedy.value] = [code, '']
  else remedy.value = code
}

/** One search over all three levels: each hit is a whole way down. */
const text = ref('')
const hits = computed(() => {
  const letters = text.value.trim().toLowerCase()
  if (letters.length < 2) return []
  const found: { codes: [string, string, string]; names: string[] }[] = []
  for (const p of sorted(props.book.problems, '')) {
    for (const c of sorted(p.below, '')) {
      for (const r of sorted(c.below, '')) {
        const names = [p.name, c.name, r.name]
        if (names.join(' ').toLowerCase().includes(letters))
          found.push({ codes: [p.code, c.code, r.code], names })
      }
    }
  }
  return found.slice(0, 8)
})
function take(codes: [string, string, string]) {
  ;[problem.value, cause.value, remedy.value] = codes
  text.value = ''
}

const columns = computed(() => [
  { level: 'problem' as const, title: 'Problem', nodes: problems.value, chosen: problem.value },
  { level: 'cause' as const, title: 'Cause', nodes: causes.value, chosen: cause.value },
  { level: 'remedy' as const, title: 'Remedy', nodes: remedies.value, chosen: remedy.value },
])
</script>

<template>
  <div>
    <input
      v-model="text"
      class="line search"
      type="search"
      placeholder="Search all three levels"
      aria-label="Search codes"
    />
    <ul v-if="hits.length" class="hits">
      <li v-for="hit in hits" :key="hit.codes.join('/')">
        <button type="button" class="plain" @click="take(hit.codes)">{{ hit.names.join(' → ') }}</button>
      </li>
    </ul>
    <div class="columns">
      <div
        v-for="column in columns"
        :key="column.level"
        role="listbox"
        :aria-label="column.title"
        :class="{ chosen: column.chosen }"
      >
        <p>{{ column.title }}</p>
        <button
          v-for="node in column.nodes"
          :key="node.code"
          type="button"
          role="option"
          class="plain code"
          :aria-selected="node.code === column.chosen"
          :data-test="`${column.level}-${node.code}`"
          @click="choose(column.level, node.code)"
        >
          {{ node.name }}
        </button>
        <span v-if="!column.nodes.length" class="quiet small">choose the one before it</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.search {
  max-width: 320px;
}

.hits {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}

.columns {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 18px;
  margin-top: 10px;
}

p {
  margin: 0 0 4px;
  font-size: 13px;
  font-weight: 600;
  color: var(--ink-2);
  border-bottom: 1px solid var(--rule-2);
}

.code {
  display: block;
  width: 100%;
  padding: 4px 8px;
}

.code:hover {
  background: var(--paper-3);
}

.code[aria-selected='true'] {
  background: var(--accent-soft);
  font-weight: 600;
}

/* One below the other; what was not chosen folds away. */
@media (max-width: 760px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
    gap: 10px;
  }

  .search {
    max-width: none;
  }

  .chosen .code[aria-selected='false'] {
    display: none;
  }

  .chosen .code::after {
    float: right;
    font-weight: 400;
    color: var(--ink-2);
    content: 'choose another';
  }
}

/* Fingers, on a tablet too. */
@media (max-width: 760px), (pointer: coarse) {
  .search,
  .code,
  .hits .plain {
    min-height: 44px;
  }
}
</style>
