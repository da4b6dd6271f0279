<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import type { Schemas } from '../common/api'
import { count, date, dateTime, duration, figure, hours, unitOf } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { figures, indicators } from '../common/queries/tally'
import { useAddress } from '../common/useAddress'
import { useTally } from '../common/useTally'
import StopLanes from './StopLanes.vue'
import KeyFigures from './KeyFigures.vue'
import TallyNav from './TallyNav.vue'
import TallyTools from './TallyTools.vue'
import { shownBy } from './columns'
import { downtime } from './queries/looks'

type By = Schemas['StoppedBy']
type Long = Schemas['LongStop']

const { scope, asked, change } = useTally()
const { to } = useAddress()
/** A line is of one asset: the one root, where there is one. */
const roots = useQuery(() => ({
  ...figures({ ...asked.value, scope: undefined, indicators: 'failures', depth: 0 }),
}))
const of = computed(() => {
  const tops = (roots.data.value?.rows ?? []).filter((row) => row.kind === 'asset')
  return scope.value || (tops.length === 1 ? tops[0]!.asset : '')
})
const { data, error } = useQuery(() => ({
  ...downtime({ ...asked.value, scope: of.value }),
  enabled: of.value !== '',
  placeholderData: keepPreviousData,
}))
const catalogue = useQuery(indicators())
const shown = computed(() => shownBy(catalogue.data.value, 'downtime'))
const sums = useQuery(() => ({
  ...figures({
    ...asked.value,
    scope: of.value,
    indicators: shown.value.map((one) => one.id).join(','),
    depth: 0,
  }),
  enabled: of.value !== '' && shown.value.length > 0,
  placeholderData: keepPreviousData,
}))
const row = computed(() => sums.data.value?.rows[0])
const value = (id: string) => row.value?.figures[id]
const name = (id: number) => data.value?.assets[String(id)]?.name ?? ''
const code = (id: number) => data.value?.assets[String(id)]?.code ?? ''
const headline = computed(() => {
  const all = row.value
  if (!all) return 'Downtime'
  const stood = value('unplanned_downtime')?.value ?? 0
  return stood ? `${all.name} stood ${hours(stood)} h unplanned` : `${all.name} did not stand unplanned`
})
const facts = computed(() =>
  shown.value.map((one) => ({
    id: one.id,
    name: [unitOf(one), one.name.toLowerCase()].filter(Boolean).join(' '),
    text: figure(value(one.id), one),
    worse: one.id === 'unplanned_downtime',
  })),
)
const total = (ms: number[]) => ms.reduce((sum, one) => sum + one, 0)
/** Who stopped it, with how much all up to each come to. */
const pareto = computed(() => {
  const all = data.value?.by ?? []
  const whole = total(all.map((one) => total(one.ms))) || 1
  let up = 0
  return all.map((one) => {
    up += total(one.ms)
    return { ...one, share: total(one.ms) / whole, up: up / whole }
  })
})
type Share = By & { share: number; up: number }
const percent = (share: number) => `${Math.round(100 * share)} %`
const byColumns: LedgerColumn<Share>[] = [
  { key: 'asset', name: 'Stopped by', by: (one) => name(one.asset), lead: true },
  { key: 'stops', name: 'Stops', text: (one) => String(one.stops), by: (one) => one.stops, num: true },
  {
    key: 'unplanned',
    name: 'Unplanned',
    text: (one) => (one.ms[0] ? duration(one.ms[0]) : ''),
    by: (one) => one.ms[0],
    num: true,
  },
  {
    key: 'planned',
    name: 'Planned',
    text: (one) => (one.ms[1] ? duration(one.ms[1]) : ''),
    by: (one) => one.ms[1],
    num: true,
  },
  {
    key: 'external',
    name: 'External',
    text: (one) => (one.ms[2] ? duration(one.ms[2]) : ''),
    by: (one) => one.ms[2],
    num: true,
  },
  { key: 'share', name: 'Share', by: (one) => one.share, num: true, width: '88px' },
  { key: 'up', name: 'Up to here', text: (one) => percent(one.up), by: null, num: true },
]
const longColumns: LedgerColumn<Long>[] = [
  { key: 'what', name: 'The longest', lead: true, by: null },
  { key: 'start', name: 'From', text: (one) => dateTime(one.start), by: (one) => one.start, nowrap: true },
  { key: 'kind', name: 'Kind', text: (one) => one.kind, nowrap: true },
  {
    key: 'ms',
    name: 'Counted',
    text: (one) => duration(one.ms),
    by: (one) => one.ms,
    num: true,
    nowrap: true,
  },
]
</script>

<template>
  <TallyNav />
  <h1 data-test="downtime-headline">{{ headline }}</h1>
  <p v-if="data" class="quiet">
    {{ date(data.window.start) }} – {{ date(Date.parse(data.window.end) - 1) }}, in
    {{ duration(data.required_ms) }} of required time; overlaps count once.
  </p>
  <ProblemNote :error="error" />
  <TallyTools :compares="false" />
  <template v-if="data && row">
    <KeyFigures :facts="facts" :asset="row.asset" />
    <StopLanes :line="data" @look="change({ scope: $event })" />
    <div class="two">
      <section>
        <h2 class="ruled">Who stopped it</h2>
        <LedgerTable
          v-if="pareto.length"
          :columns="byColumns"
          :rows="pareto"
          :key-of="(one) => one.asset"
          label="Who stopped it, the most first"
          test="stopped-by"
        >
          <template #asset="{ row: one }">
            <button class="plain" data-row @click="change({ scope: code(one.asset) })">
              {{ name(one.asset) }}
            </button>
          </template>
          <template #share="{ row: one }">
            <span class="bar"><span :style="{ width: `${100 * one.share}%` }" /></span>
            {{ percent(one.share) }}
          </template>
        </LedgerTable>
        <p v-else class="quiet">Nothing stopped it.</p>
      </section>
      <section>
        <h2 class="ruled">The {{ count(data.longest.length, 'longest stop', 'longest stops') }}</h2>
        <LedgerTable
          v-if="data.longest.length"
          :columns="longColumns"
          :rows="data.longest"
          :key-of="(one) => one.row"
          label="The longest stops"
          test="longest-stop"
        >
          <template #what="{ row: one }">
            <RouterLink v-if="one.work" :to="to(`/work/${one.work}`)" data-row>{{
              data.texts[String(one.row)] || name(one.of)
            }}</RouterLink>
            <template v-else>{{ data.texts[String(one.row)] || name(one.of) }}</template>
            <div class="small quiet">
              {{ name(one.of) }}<template v-if="one.is_open">, still down</template>
            </div>
          </template>
        </LedgerTable>
        <p v-else class="quiet">Nothing stood.</p>
      </section>
    </div>
  </template>
  <EmptyState v-else-if="of === '' && roots.data.value" title="A line of time is of one asset">
    Choose one in the tree.
  </EmptyState>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(600px, 100%), 1fr));
  gap: 20px 34px;
  margin-top: 20px;
}

.bar {
  display: inline-block;
  width: 44px;
  height: 7px;
  margin-right: 6px;
  background: var(--paper-3);
}

.bar span {
  display: block;
  height: 100%;
  background: var(--serious);
}
</style>
