<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { Schemas } from '../common/api'
import { date, figure, inWords, monthOf, monthShort, moneyShort, unitOf } from '../common/format'
import { installation } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { figures, indicators } from '../common/queries/tally'
import { useAddress } from '../common/useAddress'
import { useTally } from '../common/useTally'
import { useWhy } from '../common/useWhy'
import MonthBars from './MonthBars.vue'
import KeyFigures from './KeyFigures.vue'
import TallyNav from './TallyNav.vue'
import TallyTools from './TallyTools.vue'
import { bothPeriods, signed } from './amounts'
import { shownBy } from './columns'
import { changed, forecast } from './queries/looks'
import { MONTH, dayOf, useMonths, valueOf } from './useMonths'

type Row = Schemas['TallyRow']
type Forecast = Schemas['ForecastRow']

const { scope, asked, along, change } = useTally()
const { to } = useAddress()
const { open } = useWhy()
const KINDS = [
  { id: 'cost_labour', name: 'Labour', tone: 'strong' },
  { id: 'cost_material', name: 'Material', tone: 'warm' },
  { id: 'cost_service', name: 'Services', tone: 'cool' },
  { id: 'cost_tool', name: 'Tools', tone: 'soft' },
] as const
const catalogue = useQuery(indicators())
const sums = computed(() => shownBy(catalogue.data.value, 'cost'))
const ids = computed(() => [...sums.value.map((one) => one.id), ...KINDS.map((kind) => kind.id)])
const whole = useQuery(() => ({
  ...figures({ ...asked.value, indicators: ids.value.join(','), depth: scope.value ? 0 : 1 }),
  enabled: sums.value.length > 0,
  placeholderData: keepPreviousData,
}))
const { data, error } = whole
const top = computed(() => data.value?.rows.find((row) => row.depth === 0))
const headline = computed(() => {
  const cost = top.value?.figures.cost_total
  return cost ? `${top.value?.name}: ${moneyShort(cost.value ?? 0)} ${installation.value.currency}` : 'Cost'
})
const facts = computed(() =>
  sums.value.flatMap((one) => {
    const told = top.value?.figures[one.id]
    if (told?.value == null) return []
    return [{ id: one.id, name: `${unitOf(one)} ${one.name.toLowerCase()}`, text: figure(told, one) }]
  }),
)
const split = computed(() => {
  const cost = top.value?.figures.cost_total
  return cost && `settled ${moneyShort(cost.settled ?? 0)}, provisional ${moneyShort(cost.provisional ?? 0)}`
})
const byMonth = useMonths(
  () => top.value,
  KINDS.map((kind) => kind.id),
)
const bars = computed(() =>
  byMonth.value.map((row) => ({
    key: row.month ?? '',
    says: monthShort(dayOf(row)),
    bars: [
      KINDS.map(({ id, name, tone }) => ({
        value: Math.max(0, valueOf(row, id)),
        tone,
        title: `${name}, ${monthOf(dayOf(row))}: ${moneyShort(valueOf(row, id))}`,
      })),
    ],
  })),
)
const monthColumns: LedgerColumn<Row>[] = [
  MONTH,
  ...KINDS.map(({ id, name }) => ({
    key: id,
    name,
    num: true,
    text: (row: Row) => moneyShort(valueOf(row, id)),
    by: (row: Row) => valueOf(row, id),
  })),
]
/** The kinds of cost in both periods. */
const kinds = computed(() =>
  KINDS.map(({ id, name, tone }) => ({
    id,
    name,
    tone,
    now: top.value?.figures[id]?.value ?? 0,
    before: top.value?.before[id]?.value ?? 0,
  })),
)
type Kind = (typeof kinds.value)[number]
const kindColumns: LedgerColumn<Kind>[] = [
  { key: 'name', name: 'Kind', lead: true, by: null },
  ...bothPeriods<Kind>(),
]
const byWork = useQuery(() => ({
  ...changed({ ...asked.value, indicator: 'cost_total', by: 'work_kind' }),
  placeholderData: keepPreviousData,
}))
type Part = Schemas['ChangePart']
const workKinds = computed(() => byWork.data.value?.of[0]?.parts ?? [])
const workColumns: LedgerColumn<Part>[] = [
  { key: 'name', name: 'Kind of work', text: (row) => inWords(row.name) || 'none', lead: true },
  ...bothPeriods<Part>(),
]
const ahead = useQuery(() => ({ ...forecast(asked.value), placeholderData: keepPreviousData }))
const year = computed(() => ahead.data.value?.[0]?.year)
const past = (row: Forecast) => row.past.length
const beyond = (row: Forecast) =>
  row.budget != null && row.forecast != null ? row.forecast - row.budget : undefined
const money = (value?: number | null) => (value == null ? '' : moneyShort(value))
const aheadColumns: LedgerColumn<Forecast>[] = [
  { key: 'name', name: 'Asset', by: (row) => row.name, lead: true },
  { key: 'budget', name: 'Budget', text: (row) => money(row.budget), by: (row) => row.budget, num: true },
  { key: 'spent', name: 'Spent', text: (row) => money(row.spent), by: (row) => row.spent, num: true },
  {
    key: 'used',
    name: 'Used',
    by: (row) => (row.budget ? row.spent / row.budget : undefined),
    num: true,
    width: '24%',
  },
  {
    key: 'forecast',
    name: 'Forecast',
    hint: 'Spent to date, and the mean rest of the last years by how this one goes',
    text: (row) => money(row.forecast),
    by: (row) => row.forecast,
    num: true,
  },
  { key: 'beyond', name: 'Against budget', by: beyond, num: true },
]
const share = (part: number, all: number) => `${Math.min(100, Math.max(0, (100 * part) / Math.max(1, all)))}%`
</script>

<template>
  <TallyNav />
  <h1 data-test="cost-headline">{{ headline }}</h1>
  <p v-if="data" class="quiet">
    {{ date(data.span.start) }} – {{ date(Date.parse(data.span.end) - 1) }}, {{ split }}.
  </p>
  <ProblemNote :error="error" />
  <TallyTools />
  <template v-if="top">
    <KeyFigures :facts="facts" :asset="top.asset" />
    <h2 class="ruled">By month and kind</h2>
    <ChartFrame
      label="Cost by month and kind"
      :columns="monthColumns"
      :rows="byMonth"
      :key-of="(row) => row.month ?? ''"
    >
      <MonthBars label="Cost, month by month" :months="bars" />
      <template #caption>
        <p class="small quiet key">
          <span v-for="kind in KINDS" :key="kind.id"><i :class="kind.tone" /> {{ kind.name }}</span>
        </p>
      </template>
    </ChartFrame>
    <div class="two">
      <section>
        <h2 class="ruled">
          Against the other period
          <RouterLink class="act" :to="to('/tally/changed', { ...along, indicator: 'cost_total' })"
            >What changed</RouterLink
          >
        </h2>
        <LedgerTable
          :columns="kindColumns"
          :rows="kinds"
          :key-of="(row) => row.id"
          label="Cost by kind"
          test="cost-kind"
        >
          <template #name="{ row }">
            <button class="plain" data-row @click="open(row.id, { asset: top.asset })">{{ row.name }}</button>
          </template>
        </LedgerTable>
      </section>
      <section>
        <h2 class="ruled">By kind of work</h2>
        <LedgerTable
          :columns="workColumns"
          :rows="workKinds"
          :key-of="(row) => row.value"
          label="Cost by kind of work"
          test="cost-work-kind"
        />
      </section>
    </div>
    <h2 class="ruled">
      The fiscal year<template v-if="year">
        <span class="quiet">{{ date(year.start) }} – {{ date(Date.parse(year.end) - 1) }}</span></template
      >
    </h2>
    <LedgerTable
      v-if="ahead.data.value"
      :columns="aheadColumns"
      :rows="ahead.data.value"
      :key-of="(row) => row.asset"
      label="Budget and forecast"
      :test="(row) => `forecast-${row.asset}`"
      :row-class="(row) => ({ top: row.is_scope && scope })"
    >
      <template #name="{ row }">
        <button class="plain" data-row @click="change({ scope: row.asset })">{{ row.name }}</button>
      </template>
      <template #used="{ row }">
        <template v-if="row.budget">
          <span class="bar"
            ><span
              class="spent"
              :style="{ width: share(row.spent, Math.max(row.budget, row.forecast ?? 0)) }" /><span
              class="rest"
              :style="{
                width: share(
                  (row.forecast ?? row.spent) - row.spent,
                  Math.max(row.budget, row.forecast ?? 0),
                ),
              }"
          /></span>
          {{ Math.round((100 * row.spent) / row.budget) }} %
        </template>
        <span v-else class="quiet">no budget</span>
      </template>
      <template #beyond="{ row }">
        <span v-if="beyond(row) !== undefined" :class="{ worse: (beyond(row) ?? 0) > 0 }">{{
          signed(beyond(row) ?? 0, 'money')
        }}</span>
        <span v-else-if="row.per_day != null" class="quiet">its first year, as it goes by the day</span>
        <span v-else-if="!past(row)" class="quiet">no past year</span>
      </template>
    </LedgerTable>
    <p class="small quiet">
      Forecast: what was spent to date, and the mean rest of up to three years before, by how this year goes
      against them, kept between half and double. Common practice, no published source. Budgets stand in Setup
      › Values by date.
    </p>
  </template>
  <EmptyState v-else-if="data" title="There is nothing to add up yet"
    >Choose an asset in the tree.</EmptyState
  >
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
  gap: 20px 34px;
  margin: 18px 0 20px;
}

.key {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}

.key i {
  display: inline-block;
  width: 14px;
  height: 9px;
}

.strong {
  background: var(--accent);
}

.warm {
  background: var(--alert);
}

.cool {
  background: var(--other);
}

.soft {
  background: var(--notice);
}

.bar {
  display: inline-flex;
  width: 65%;
  height: 8px;
  margin-right: 6px;
  background: var(--paper-3);
}

.spent {
  background: var(--accent);
}

.rest {
  background: var(--accent);
  opacity: 0.35;
}

.worse {
  color: var(--worse);
}
</style>
