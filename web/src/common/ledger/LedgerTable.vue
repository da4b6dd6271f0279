<script setup lang="ts" generic="Row">
import {
  type RowSelectionState,
  type SortingState,
  createSortedRowModel,
  rowSelectionFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from '@tanstack/vue-table'
import { computed, useTemplateRef } from 'vue'
import { type LedgerColumn, type LedgerOrder, canOrder, compare, valueOf } from './columns'
import { useVirtualRows } from './useVirtualRows'

/**
 * The one table of lists: ordered by its heads, selected, moved through by arrows, drawn as far as it is seen, as cards
 * where the screen is narrow, and whole on paper.
 */
const props = defineProps<{
  columns: LedgerColumn<Row>[]
  rows: Row[]
  keyOf: (row: Row) => string | number
  /** What is listed, for who hears the page. */
  label?: string
  /** The server orders the rows: a head only says so. */
  served?: boolean
  /** Rows can be selected; the name of one, for its box. */
  selects?: (row: Row) => string | undefined
  /** Key of the row that is open beside. */
  chosen?: string | number
  /** Key of the row that has more below it, in the slot `below`. */
  opened?: string | number
  /** What a row is to tests. */
  test?: string | ((row: Row) => string)
  rowClass?: (row: Row) => unknown
}>()
/** By what rows are ordered; as they come where nothing is said. */
const order = defineModel<LedgerOrder>('order')
/** Keys of the rows that are selected. */
const selected = defineModel<Set<string>>('selected', { default: () => new Set() })
/** A column's cells are the slot of its key; `below` is more of the row that is opened. */
defineSlots<Record<string, (given: { row: Row }) => unknown>>()

const features = tableFeatures({
  rowSortingFeature,
  rowSelectionFeature,
  sortedRowModel: createSortedRowModel(),
})
const sorting = computed<SortingState>(() =>
  order.value ? [{ id: order.value.key, desc: order.value.descending }] : [],
)
const rowSelection = computed<RowSelectionState>(() =>
  Object.fromEntries([...selected.value].map((key) => [key, true])),
)
const later = <Value,>(next: Value | ((now: Value) => Value), now: Value) =>
  typeof next === 'function' ? (next as (now: Value) => Value)(now) : next
const table = useTable({
  features,
  data: computed(() => props.rows as object[]),
  columns: computed(() =>
    props.columns.map((column) => ({
      id: column.key,
      accessorFn: (row: object) => valueOf(column, row as Row),
      enableSorting: canOrder(column, props.served === true),
      sortDescFirst: column.num === true && !props.served,
      sortUndefined: 'last' as const,
      sortFn: (
        a: { getValue: (id: string) => unknown },
        b: { getValue: (id: string) => unknown },
        id: string,
      ) => compare(a.getValue(id) as never, b.getValue(id) as never),
    })),
  ),
  getRowId: (row: object) => String(props.keyOf(row as Row)),
  manualSorting: computed(() => props.served === true),
  enableSortingRemoval: computed(() => props.served !== true),
  enableMultiSort: false,
  enableRowSelection: (row: { original: object }) => props.selects?.(row.original as Row) !== undefined,
  state: computed(() => ({ sorting: sorting.value, rowSelection: rowSelection.value })),
  onSortingChange: (next: SortingState | ((now: SortingState) => SortingState)) => {
    const first = later(next, sorting.value)[0]
    order.value = first && { key: first.id, descending: first.desc }
  },
  onRowSelectionChange: (next: RowSelectionState | ((now: RowSelectionState) => RowSelectionState)) => {
    const kept = later(next, rowSelection.value)
    selected.value = new Set(Object.keys(kept).filter((key) => kept[key]))
  },
})
const lines = computed(() => table.getRowModel().rows)
const root = useTemplateRef<HTMLElement>('root')
const { isLong, places, before, after, measure } = useVirtualRows(root, () => lines.value.length)
const drawn = computed(() =>
  places.value.flatMap((place) => (lines.value[place] ? [{ place, row: lines.value[place] }] : [])),
)
const wide = computed(() => props.columns.length + (props.selects ? 1 : 0))
const selectable = computed(() => lines.value.some((row) => row.getCanSelect()))
const direction = (key: string) =>
  order.value?.key === key ? (order.value.descending ? 'descending' : 'ascending') : undefined
const original = (row: { original: object }) => row.original as Row

/** Arrows go from row to row, to what can be pressed first in it. */
function step(event: KeyboardEvent, by: number) {
  const from = event.target as HTMLElement
  if (from.matches('input:not([type=checkbox]), select, textarea')) return
  const line = from.closest('tbody')
  let next = by > 0 ? line?.nextElementSibling : line?.previousElementSibling
  while (next && !next.querySelector('a, button, input'))
    next = by > 0 ? next.nextElementSibling : next.previousElementSibling
  const target =
    next?.querySelector<HTMLElement>('[data-row]') ?? next?.querySelector<HTMLElement>('a, button, input')
  if (!target) return
  event.preventDefault()
  target.focus()
}
</script>

<template>
  <table
    ref="root"
    class="ledger"
    :class="{ served }"
    :aria-label="label"
    :aria-rowcount="isLong ? lines.length + 1 : undefined"
    @keydown.down="step($event, 1)"
    @keydown.up="step($event, -1)"
  >
    <thead>
      <tr>
        <th v-if="selects" class="pick">
          <input
            type="checkbox"
            aria-label="Select all rows shown"
            :disabled="!selectable"
            :checked="selectable && table.getIsAllRowsSelected()"
            :indeterminate="table.getIsSomeRowsSelected()"
            @change="table.toggleAllRowsSelected()"
          />
        </th>
        <th
          v-for="column in columns"
          :key="column.key"
          :class="{
            num: column.num,
            'no-print': column.screenOnly,
            sorts: canOrder(column, served === true),
          }"
          :style="{ width: column.width }"
          :title="column.hint"
          :aria-sort="direction(column.key)"
        >
          <button
            v-if="canOrder(column, served === true)"
            class="plain"
            @click="table.getColumn(column.key)?.toggleSorting()"
          >
            {{ column.name
            }}<template v-if="direction(column.key)">{{
              direction(column.key) === 'descending' ? ' ↓' : ' ↑'
            }}</template>
          </button>
          <span v-else :class="{ unseen: column.unseen }">{{ column.name }}</span>
          <span v-if="column.unit" class="unit">{{ column.unit }}</span>
        </th>
      </tr>
    </thead>
    <tbody v-if="before" aria-hidden="true">
      <tr>
        <td :colspan="wide" class="gap" :style="{ height: `${before}px` }" />
      </tr>
    </tbody>
    <tbody v-for="{ place, row } in drawn" :key="row.id" :ref="measure" :data-index="place">
      <tr
        :class="[rowClass?.(original(row)), { chosen: chosen !== undefined && row.id === String(chosen) }]"
        :aria-rowindex="isLong ? place + 2 : undefined"
        :data-test="typeof test === 'function' ? test(original(row)) : test"
      >
        <td v-if="selects" class="pick">
          <input
            v-if="row.getCanSelect()"
            type="checkbox"
            :checked="row.getIsSelected()"
            :aria-label="`Select ${selects(original(row))}`"
            @change="row.toggleSelected()"
          />
        </td>
        <td
          v-for="column in columns"
          :key="column.key"
          :class="{
            num: column.num,
            lead: column.lead,
            nowrap: column.nowrap,
            'no-print': column.screenOnly,
            'wide-only': column.wideOnly,
          }"
          :data-name="column.unseen || column.lead ? undefined : column.name"
        >
          <slot :name="column.key" :row="original(row)">{{ column.text?.(original(row)) }}</slot>
        </td>
      </tr>
      <tr v-if="opened !== undefined && row.id === String(opened)" class="below">
        <td :colspan="wide"><slot name="below" :row="original(row)" /></td>
      </tr>
    </tbody>
    <tbody v-if="after" aria-hidden="true">
      <tr>
        <td :colspan="wide" class="gap" :style="{ height: `${after}px` }" />
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.pick {
  width: 30px;
}

.nowrap {
  white-space: nowrap;
}

th .plain {
  font-weight: 600;
}

.unit {
  display: block;
  font-weight: 400;
  font-size: 12px;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}

.gap {
  padding: 0;
  border: 0;
}

.chosen td {
  background: var(--accent-soft);
}

.below > td {
  padding: 0;
}

/* Where there is no room for columns, a row is a card: what it is called by, then each thing with its name before it. */
@container screen (max-width: 620px) {
  table.ledger {
    display: block;
    overflow: visible;
    background: none;
  }

  thead,
  tbody {
    display: block;
  }

  thead tr {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 16px;
    border-bottom: 1.5px solid var(--ink);
  }

  thead:not(:has(.sorts, .pick)) {
    display: none;
  }

  /* What orders the cards stays. */
  th:not(.sorts, .pick) {
    display: none;
  }

  table.ledger th {
    position: static;
    border: 0;
    padding: 4px 0;
    width: auto !important;
  }

  th .unit {
    display: none;
  }

  tbody tr {
    display: flex;
    flex-direction: column;
    position: relative;
    padding: 9px 0;
    border-bottom: 1px solid var(--rule);
  }

  table.ledger td {
    position: relative;
    border: 0;
    padding: 1px 0;
    text-align: left;
    white-space: normal;
  }

  table.ledger td[data-name] {
    padding-left: 158px;
    min-height: 24px;
  }

  td[data-name]::before {
    content: attr(data-name);
    position: absolute;
    left: 0;
    width: 150px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 13px;
    color: var(--ink-2);
  }

  table.ledger td:empty,
  td.wide-only {
    display: none;
  }

  td.lead {
    order: -1;
  }

  tr:has(td.pick) {
    padding-left: 32px;
  }

  table.ledger td.pick {
    position: absolute;
    left: 0;
    top: 9px;
  }

  tr.below {
    padding: 0;
  }

  tbody:has(.gap) tr {
    padding: 0;
    border: 0;
  }
}
</style>
