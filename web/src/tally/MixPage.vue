<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { Schemas } from '../common/api'
import { date, figure, hours, monthShort, whole } from '../common/format'
import { installation } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { figures, indicators } from '../common/queries/tally'
import { useTally } from '../common/useTally'
import type { Asked, GroupRow } from '../common/list/asked'
import ListRows from '../common/list/ListRows.vue'
import { groups, subjects } from '../common/queries/lists'
import MonthBars from './MonthBars.vue'
import KeyFigures from './KeyFigures.vue'
import TallyNav from './TallyNav.vue'
import { shownBy } from './columns'
import TallyTools from './TallyTools.vue'
import { MONTH, dayOf, useMonths, valueOf } from './useMonths'

type Row = Schemas['TallyRow']

const { scope, asked, filters, past, read, change } = useTally()
const catalogue = useQuery(indicators())
const shown = computed(() => shownBy(catalogue.data.value, 'mix'))
/** What the months are drawn of. */
const COUNTS = ['raised', 'completed'] as const
const { data, error } = useQuery(() => ({
  ...figures({
    ...asked.value,
    indicators: [...COUNTS, ...shown.value.map((one) => one.id)].join(','),
    depth: 0,
  }),
  placeholderData: keepPreviousData,
}))
const top = computed(() => data.value?.rows[0])
const told = (id: string) => top.value?.figures[id]
const headline = computed(() =>
  top.value
    ? `${top.value.name}: ${whole(told('raised')?.value ?? 0)} raised, ${whole(told('completed')?.value ?? 0)} completed`
    : 'Work mix',
)
const facts = computed(() =>
  shown.value.map((one) => {
    const before = top.value?.before[one.id]
    const was = before?.value == null ? '' : `, ${figure(before, one)} before`
    return { id: one.id, name: one.name.toLowerCase() + was, text: figure(told(one.id), one) }
  }),
)
const SHARE = 'preventive_count_share'
const byMonth = useMonths(() => top.value, [...COUNTS, SHARE])
const bars = computed(() =>
  byMonth.value.map((row) => ({
    key: row.month ?? '',
    says: monthShort(dayOf(row)),
    bars: COUNTS.map((id) => [
      {
        value: valueOf(row, id),
        tone: id === 'raised' ? 'plain' : 'strong',
        title: `${whole(valueOf(row, id))} ${id}`,
      },
    ]),
  })),
)
const monthColumns: LedgerColumn<Row>[] = [
  MONTH,
  {
    key: 'raised',
    name: 'Raised',
    text: (row) => whole(valueOf(row, 'raised')),
    by: (row) => valueOf(row, 'raised'),
    num: true,
  },
  {
    key: 'completed',
    name: 'Completed',
    text: (row) => whole(valueOf(row, 'completed')),
    by: (row) => valueOf(row, 'completed'),
    num: true,
  },
  {
    key: 'share',
    name: 'Preventive',
    text: (row) => figure(row.figures.preventive_count_share, { unit: 'share' }),
    by: (row) => row.figures.preventive_count_share?.value,
    num: true,
  },
]

/** Work completed in the period that had an estimate. */
const completed = computed<Asked>(() => ({
  scope: scope.value || null,
  filter: [
    { column: 'done_at', from: data.value?.span.start, to: data.value?.span.end },
    { column: 'estimated', blank: false },
    ...filters.value,
  ],
  ...past.value,
}))
const BY = [
  { key: 'crew', name: 'crew' },
  { key: 'department', name: 'department' },
  { key: 'assignee', name: 'person' },
  { key: 'raised_by', name: 'who raised it' },
] as const
const by = computed(() => read('hours') || 'crew')
const grouped = computed<Asked>(() => ({
  ...completed.value,
  group: [{ column: by.value }],
  summaries: (['estimated', 'spent'] as const).map((column) => ({ column, of: 'sum' as const })),
}))
const ofGroups = useQuery(() => ({
  ...groups('work', grouped.value),
  enabled: data.value !== undefined,
  placeholderData: keepPreviousData,
}))
const num = (cell: unknown) => (typeof cell === 'number' ? cell : 0)
const keyText = (row: GroupRow) =>
  typeof row.key === 'object' && row.key !== null ? row.key.name : String(row.key ?? 'none')
const ratio = (row: GroupRow) =>
  num(row.summaries[0]) ? num(row.summaries[1]) / num(row.summaries[0]) : undefined
const mark = computed(() => (installation.value.estimate_mark_percent ?? 125) / 100)
const groupColumns = computed<LedgerColumn<GroupRow>[]>(() => [
  {
    key: 'name',
    name: `By ${BY.find((one) => one.key === by.value)?.name ?? ''}`,
    text: keyText,
    lead: true,
  },
  { key: 'count', name: 'Orders', text: (row) => whole(row.count), by: (row) => row.count, num: true },
  {
    key: 'estimated',
    name: 'Estimated',
    unit: 'h',
    text: (row) => hours(num(row.summaries[0])),
    by: (row) => num(row.summaries[0]),
    num: true,
  },
  {
    key: 'spent',
    name: 'Spent',
    unit: 'h',
    text: (row) => hours(num(row.summaries[1])),
    by: (row) => num(row.summaries[1]),
    num: true,
  },
  { key: 'ratio', name: 'Of estimate', by: ratio, num: true },
])
const lists = useQuery(subjects())
const work = computed(() => lists.data.value?.find((one) => one.id === 'work'))
/** Orders that took much longer than estimated, the most first. */
const outliers = computed<Asked>(() => ({
  ...completed.value,
  filter: [...(completed.value.filter ?? []), { column: 'estimate_ratio', from: String(mark.value) }],
  columns: ['number', 'title', 'asset', 'raised_by', 'crew', 'estimated', 'spent', 'estimate_ratio'],
  sort: [{ column: 'estimate_ratio', descending: true }],
}))
</script>

<template>
  <TallyNav />
  <h1 data-test="mix-headline">{{ headline }}</h1>
  <p v-if="data" class="quiet">{{ date(data.span.start) }} – {{ date(Date.parse(data.span.end) - 1) }}</p>
  <ProblemNote :error="error" />
  <TallyTools />
  <template v-if="top">
    <KeyFigures :facts="facts" :asset="top.asset" />
    <h2 class="ruled">Raised against completed</h2>
    <ChartFrame
      label="Work raised and completed by month"
      :columns="monthColumns"
      :rows="byMonth"
      :key-of="(row) => row.month ?? ''"
    >
      <MonthBars label="Work raised and completed, month by month" :months="bars" />
      <template #caption>
        <p class="small quiet key">
          <span><i class="plain-tone" /> raised</span><span><i class="strong" /> completed</span>
        </p>
      </template>
    </ChartFrame>
    <h2 class="ruled hours">
      Planned against actual hours
      <span class="ways small no-print">
        <button
          v-for="one in BY"
          :key="one.key"
          class="plain"
          :class="{ here: by === one.key }"
          @click="change({ hours: one.key })"
        >
          by {{ one.name }}
        </button>
      </span>
    </h2>
    <LedgerTable
      v-if="ofGroups.data.value?.groups.length"
      :columns="groupColumns"
      :rows="ofGroups.data.value.groups"
      :key-of="(row) => row.filter"
      label="Planned against actual hours"
      test="mix-hours"
    >
      <template #ratio="{ row }">
        <span :class="{ worse: (ratio(row) ?? 0) > mark }">{{
          figure({ value: ratio(row) }, { unit: 'factor' })
        }}</span>
      </template>
    </LedgerTable>
    <h2 class="ruled hours">
      Orders beyond {{ figure({ value: mark }, { unit: 'factor' }) }} of their estimate
      <span class="quiet">who raised them</span>
    </h2>
    <ListRows v-if="work && data" :subject="work" :ask="outliers" />
  </template>
  <EmptyState v-else-if="data" title="There is nothing to add up yet"
    >Choose an asset in the tree.</EmptyState
  >
</template>

<style scoped>
.hours {
  margin-top: 20px;
}

.ways {
  display: flex;
  gap: 14px;
  margin-left: auto;
  font-family: var(--sans);
  font-weight: 400;
}

.ways .here {
  color: var(--accent);
  font-weight: 600;
}

.key {
  display: flex;
  gap: 16px;
}

.key i {
  display: inline-block;
  width: 14px;
  height: 9px;
}

.plain-tone {
  background: var(--rule-2);
}

.strong {
  background: var(--accent);
}

.worse {
  color: var(--worse);
}
</style>
