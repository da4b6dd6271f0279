<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { count, figure } from '../common/format'
import type { Schemas } from '../common/api'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { levels } from '../generated/words'
import { useTally } from '../common/useTally'
import { useWhy } from '../common/useWhy'
import type { Column } from './columns'
import { ranking } from './queries/looks'

type Ranked = Schemas['RankedRow']

/** All assets below the scope in the order of one figure, wherever they stand. */
const props = defineProps<{ columns: Column[]; by: string }>()
const { asked, read, change } = useTally()
const { open } = useWhy()
const level = computed(() => read('level'))
const { data, error } = useQuery(() => ({
  ...ranking({
    ...asked.value,
    by: props.by,
    indicators: props.columns.map((column) => column.id).join(','),
    ...(level.value && { level: level.value as 'unit' }),
    most: 500,
  }),
  placeholderData: keepPreviousData,
}))
const heads = computed<LedgerColumn<Ranked>[]>(() => [
  { key: 'name', name: 'Asset', lead: true, by: null },
  ...props.columns.map((column) => ({
    key: column.id,
    name: column.short,
    unit: column.unitShown,
    hint: column.formula,
    num: true,
    text: (row: Ranked) => figure(row.figures[column.id], column),
    by: (row: Ranked) => row.figures[column.id]?.value,
  })),
])
const pick = (event: Event) => change({ level: (event.target as HTMLSelectElement).value })
</script>

<template>
  <p v-if="data" class="quiet small of">
    {{ count(data.count, 'asset', 'assets') }} with a figure, the greatest first<template
      v-if="data.count > data.rows.length"
      >; {{ data.rows.length }} are shown</template
    >.
    <label>
      Level
      <select class="line" :value="level" data-test="ranking-level" @change="pick">
        <option value="">any</option>
        <option v-for="one in levels" :key="one">{{ one }}</option>
      </select>
    </label>
  </p>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="data?.rows.length"
    :columns="heads"
    :rows="data.rows"
    :key-of="(row) => row.asset"
    label="Assets, the greatest first"
    :test="(row) => `ranked-${row.asset}`"
  >
    <template #name="{ row }">
      <button class="plain name" data-row @click="change({ scope: row.asset, flat: '' })">
        {{ row.name }}
      </button>
      <span class="quiet small code">{{ row.asset }}</span>
    </template>
    <template v-for="column in columns" :key="column.id" #[column.id]="{ row }">
      <button
        class="plain"
        :title="`Why: ${column.name} of ${row.name}`"
        @click="open(column.id, { asset: row.asset })"
      >
        {{ figure(row.figures[column.id], column) }}
      </button>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="data" title="No asset has such a figure"
    >Choose another, or a longer period.</EmptyState
  >
</template>

<style scoped>
.of {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
  margin: 4px 0 8px;
}

.line {
  width: auto;
}

.code {
  margin-left: 8px;
}
</style>
