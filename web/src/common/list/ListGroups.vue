<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { whole } from '../format'
import { installation } from '../installation'
import { type Answer, type Asked, type GroupRow, type Subject, filtersOf } from './asked'
import { groupText, isFigure, textOf, unitOf } from './cells'
import ListRows from './ListRows.vue'

const props = defineProps<{ subject: Subject; answer: Answer; ask: Asked }>()

const def = (id: string) => props.subject.columns.find((column) => column.id === id)
const levels = computed(() => props.ask.group ?? [])
const summaries = computed(() =>
  props.answer.summed.map((column, place) => ({ column, of: props.ask.summaries?.[place]?.of })),
)
const lines = computed(() => {
  const way: GroupRow[] = []
  return props.answer.groups.map((group) => {
    way.splice(group.depth)
    way.push(group)
    const path = way.map((one, depth) => ({ column: levels.value[depth]?.column ?? '', group: one }))
    return { group, path, key: way.map((one) => one.filter).join('\n') }
  })
})
const folded = ref(new Set<string>())
const opened = ref<string>()
watch(levels, () => {
  folded.value = new Set()
  opened.value = undefined
})
const isShown = (key: string) => {
  const parts = key.split('\n')
  return parts.every((_, place) => place === 0 || !folded.value.has(parts.slice(0, place).join('\n')))
}
const isInner = (group: GroupRow) => group.depth === levels.value.length - 1
function press(line: (typeof lines.value)[number]) {
  if (isInner(line.group)) opened.value = opened.value === line.key ? undefined : line.key
  else if (!folded.value.delete(line.key)) folded.value.add(line.key)
}
const text = (group: GroupRow) => {
  const level = levels.value[group.depth]
  return groupText(group.key, def(level?.column ?? '')?.holds ?? 'word', level?.by)
}
/** The rows of one group, as the list has them. */
const inside = (line: (typeof lines.value)[number]): Asked => ({
  ...props.ask,
  group: [],
  facets: [],
  filter: [...(props.ask.filter ?? []), ...filtersOf(line.path)],
})
</script>

<template>
  <table class="ledger groups" :aria-label="`${subject.name}, grouped`">
    <thead>
      <tr>
        <th>
          {{ levels.map((one) => def(one.column)?.name).join(' › ') }}
        </th>
        <th class="num">Rows</th>
        <th v-for="summary in summaries" :key="`${summary.column.id} ${summary.of}`" class="num">
          {{ summary.column.name }}
          <span class="unit">{{ unitOf(summary.column, installation.currency) }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <template v-for="line in lines" :key="line.key">
        <tr v-if="isShown(line.key)" :class="{ outer: !isInner(line.group) }" data-test="group">
          <td :style="{ paddingLeft: `${line.group.depth * 22 + 2}px` }">
            <button
              class="plain"
              :aria-expanded="isInner(line.group) ? opened === line.key : !folded.has(line.key)"
              data-row
              @click="press(line)"
            >
              {{ (isInner(line.group) ? opened === line.key : !folded.has(line.key)) ? '−' : '+' }}
              {{ text(line.group) }}
            </button>
          </td>
          <td class="num">{{ whole(line.group.count) }}</td>
          <td v-for="(summary, place) in summaries" :key="`${summary.column.id} ${summary.of}`" class="num">
            {{
              textOf(
                line.group.summaries[place] ?? null,
                isFigure(summary.column.holds) ? summary.column.holds : 'number',
              )
            }}
          </td>
        </tr>
        <tr v-if="opened === line.key && isShown(line.key)" class="below">
          <td :colspan="2 + summaries.length"><ListRows :subject="subject" :ask="inside(line)" /></td>
        </tr>
      </template>
    </tbody>
    <tfoot>
      <tr>
        <th>All of it</th>
        <td class="num">{{ whole(answer.count) }}</td>
        <td v-for="(summary, place) in summaries" :key="`${summary.column.id} ${summary.of}`" class="num">
          {{ textOf(answer.summaries[place] ?? null, summary.column.holds) }}
        </td>
      </tr>
    </tfoot>
  </table>
  <p v-if="answer.more_groups" class="quiet">
    And {{ whole(answer.more_groups) }} more groups; filter, or group by less.
  </p>
</template>

<style scoped>
th:first-child {
  padding-left: 2px;
}

.outer td {
  font-weight: 600;
}

.unit {
  display: block;
  font-weight: 400;
  font-size: 12px;
}

tfoot th,
tfoot td {
  border-top: 1.5px solid var(--ink);
  font-weight: 600;
  text-align: left;
}

tfoot .num {
  text-align: right;
}

.below > td {
  padding: 0 0 14px 44px;
}
</style>
