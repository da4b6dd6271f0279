<script setup lang="ts">
import { useInfiniteQuery, useQuery, keepPreviousData } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { whole } from '../format'
import { installation } from '../installation'
import LedgerTable from '../ledger/LedgerTable.vue'
import MoreRows from '../ledger/MoreRows.vue'
import type { LedgerColumn, LedgerOrder } from '../ledger/columns'
import ProblemNote from '../ProblemNote.vue'
import { useAddress } from '../useAddress'
import type { Asked, Cell, ColumnDef, ListRow, Subject } from './asked'
import { isFigure, textOf, unitOf } from './cells'
import { groups, rows } from '../queries/lists'

const props = defineProps<{
  subject: Subject
  ask: Asked
  /** Rows can be selected, and what those come to is told. */
  selects?: boolean
}>()
const order = defineModel<LedgerOrder>('order')
const { to } = useAddress()

const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery(() => ({
  ...rows(props.subject.id, { ...props.ask, limit: 100 }),
  placeholderData: keepPreviousData,
}))
const first = computed(() => data.value?.pages[0])
const all = computed(() => data.value?.pages.flatMap((page) => page.rows) ?? [])

const cell = (row: ListRow, place: number): Cell => row.cells[place] ?? null
const columns = computed<LedgerColumn<ListRow>[]>(() =>
  (first.value?.columns ?? []).map((column: ColumnDef, place: number) => ({
    key: column.id,
    name: column.name,
    unit: unitOf(column, installation.value.currency),
    num: isFigure(column.holds),
    nowrap: isFigure(column.holds) || column.holds === 'instant' || column.holds === 'number',
    width: column.holds === 'text' ? '20%' : undefined,
    sorts: column.holds !== 'text' && column.holds !== 'words',
    lead: place === 0,
    text: (row) => textOf(cell(row, place), column.holds),
  })),
)
/** Numbers of orders lead to them, meters to theirs. */
const leads = computed(() =>
  columns.value.filter((column) => ['number', 'order', 'meter'].includes(column.key)),
)
function leadOf(row: ListRow, key: string) {
  const found = cell(
    row,
    columns.value.findIndex((column) => column.key === key),
  )
  if (found === null) return undefined
  if (typeof found === 'object') return { to: to(`/watch/${found.code}`), text: found.name }
  return { to: to(`/work/${String(found)}`), text: String(found) }
}

const selected = ref(new Set<string>())
watch(
  () => props.subject.id,
  () => selected.value.clear(),
)
const chosen = useQuery(() => ({
  ...groups(props.subject.id, {
    ...props.ask,
    only: [...selected.value].map(Number),
    columns: [],
    facets: [],
  }),
  enabled: selected.value.size > 0,
  placeholderData: keepPreviousData,
}))
const selectedText = computed(() => {
  const { data } = chosen
  if (!selected.value.size || !data.value) return ''
  const sums = data.value.summed.map((column, place) => {
    const text = textOf(data.value?.summaries[place] ?? null, column.holds)
    return `${column.name.toLowerCase()} ${text} ${unitOf(column, installation.value.currency) ?? ''}`.trim()
  })
  return [`${whole(selected.value.size)} selected`, ...sums].join(' · ')
})
</script>

<template>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="all.length"
    v-model:order="order"
    v-model:selected="selected"
    :columns="columns"
    :rows="all"
    :key-of="(row) => row.id"
    :label="subject.name"
    :selects="selects ? (row) => `row ${row.id}` : undefined"
    served
    test="list-row"
  >
    <template v-for="column in leads" :key="column.key" #[column.key]="{ row }">
      <RouterLink v-if="leadOf(row, column.key)" :to="leadOf(row, column.key)!.to" data-row>
        {{ leadOf(row, column.key)!.text }}
      </RouterLink>
    </template>
  </LedgerTable>
  <MoreRows :more="hasNextPage" :busy="isFetchingNextPage" @more="fetchNextPage()" />
  <p v-if="selectedText" class="selected" role="status" data-test="selected">
    {{ selectedText }}
    <button class="act" @click="selected = new Set()">Select none</button>
  </p>
</template>

<style scoped>
.selected {
  /* Down to the edge of the screen, over its margin. */
  position: sticky;
  bottom: -44px;
  display: flex;
  gap: 18px;
  margin: 0;
  padding: 9px 2px 16px;
  background: var(--paper);
  border-top: 1.5px solid var(--ink);
  font-weight: 600;
}
</style>
