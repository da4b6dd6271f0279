<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { Schemas } from '../common/api'
import { count, dateTime, duration, figure, monthOf, monthShort, whole } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn, LedgerOrder } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { figures } from '../common/queries/tally'
import { useTally } from '../common/useTally'
import { subjects } from '../common/queries/lists'
import ListGroups from '../common/list/ListGroups.vue'
import ListRows from '../common/list/ListRows.vue'
import { groups } from '../common/queries/lists'
import type { Asked } from '../common/list/asked'
import CutBlock from './CutBlock.vue'
import MonthBars from './MonthBars.vue'
import KeyFigures from './KeyFigures.vue'
import TallyNav from './TallyNav.vue'
import TallyTools from './TallyTools.vue'
import { backlog } from './queries/looks'

const { scope, asked, past, read, change } = useTally()
/** States and ages are held to here alone. */
const own = computed(() => ({
  ...(read('state') && { state: read('state') }),
  ...(read('age') && { age: read('age') }),
}))
const question = computed(() => ({ ...asked.value, ...own.value }))
const { data, error } = useQuery(() => ({ ...backlog(question.value), placeholderData: keepPreviousData }))
const now = computed(() => data.value?.now)
const headline = computed(() => {
  const all = data.value
  if (!all) return 'Backlog'
  const weeks = all.backlog_weeks.value
  const long = weeks == null ? '' : `: ${figure(all.backlog_weeks, { unit: 'weeks' })} weeks of work`
  return `${count(all.now.count, 'open order', 'open orders')}, ${duration(all.now.ms)} to do${long}`
})
const facts = computed(() => {
  const all = data.value
  if (!all) return []
  return [
    { name: 'past their window', text: whole(all.now.past_window), worse: all.now.past_window > 0 },
    { name: 'over their state’s limit', text: whole(all.now.over_limit), worse: all.now.over_limit > 0 },
    { name: 'without an estimate', text: whole(all.now.without_estimate), worse: false },
    { name: 'weeks ready to be done', text: figure(all.ready_weeks, { unit: 'weeks' }), worse: false },
    { name: 'days old in the middle', text: figure(all.age, { unit: 'days' }), worse: false },
    {
      name: 'days old, nine of ten',
      text: figure({ value: all.age.ninth }, { unit: 'days' }),
      worse: false,
    },
  ]
})
const names: Record<Schemas['BacklogCut'], string> = {
  state: 'By state',
  crew: 'By crew',
  department: 'By department',
  age: 'By age',
  rank: 'By rank',
}
const chosen = (cut: string) => (read(cut) ? read(cut).split('|') : [])
function toggle(cut: string, value: string) {
  const before = chosen(cut)
  const next = before.includes(value) ? before.filter((one) => one !== value) : [...before, value]
  change({ [cut]: next.length === 1 && next[0] === '' ? '|' : next.join('|') })
}
const limits = computed(() => {
  const words = new Map<string, string>()
  for (const { state, days } of data.value?.state_limits ?? [])
    words.set(state, [words.get(state), `limit ${days} d`].filter(Boolean).join(', '))
  return words
})
const growth = computed(() => [...(data.value?.months ?? []), ...(now.value ? [now.value] : [])])
const bars = computed(() =>
  growth.value.map((month) => ({
    key: month.at,
    says: monthShort(month.at),
    bars: [
      [
        { value: month.past_window, tone: 'bad', title: `${month.past_window} past their window` },
        {
          value: month.count - month.past_window,
          tone: 'plain',
          title: `${month.count - month.past_window} within their window`,
        },
      ],
    ],
  })),
)
type At = Schemas['BacklogAt']
const monthColumns: LedgerColumn<At>[] = [
  { key: 'at', name: 'As of', text: (row) => dateTime(row.at), by: (row) => row.at, lead: true },
  { key: 'count', name: 'Open', text: (row) => whole(row.count), by: (row) => row.count, num: true },
  { key: 'ms', name: 'To do', text: (row) => duration(row.ms), by: (row) => row.ms, num: true },
  {
    key: 'late',
    name: 'Past window',
    text: (row) => whole(row.past_window),
    by: (row) => row.past_window,
    num: true,
  },
  {
    key: 'over',
    name: 'Over limit',
    text: (row) => whole(row.over_limit),
    by: (row) => row.over_limit,
    num: true,
  },
]

/** How the orders come: as counts by what is right below first where there are many. */
const as = computed(() => read('as') || data.value?.comes_as || 'orders')
const ways = [
  { key: 'children', name: 'by what is below' },
  { key: 'assets', name: 'by asset' },
  { key: 'orders', name: 'by order' },
]
const below = useQuery(() => ({
  ...figures({
    ...asked.value,
    indicators: 'open_work,open_hours,past_window,over_state_limit',
    depth: 1,
  }),
  enabled: as.value === 'children',
  placeholderData: keepPreviousData,
}))
type Row = Schemas['TallyRow']
const childRows = computed(() =>
  (below.data.value?.rows ?? []).filter((row) => (scope.value ? row.depth === 1 : row.depth === 0)),
)
const value = (row: Row, id: string) => row.figures[id]?.value ?? 0
const childColumns: LedgerColumn<Row>[] = [
  { key: 'name', name: 'Below', by: (row) => row.name, lead: true },
  ...(
    [
      ['open_work', 'Orders', 'count'],
      ['open_hours', 'To do, h', 'hours'],
      ['past_window', 'Past window', 'count'],
      ['over_state_limit', 'Over limit', 'count'],
    ] as const
  ).map(([id, name, unit]) => ({
    key: id,
    name,
    num: true,
    text: (row: Row) => figure(row.figures[id], { unit }),
    by: (row: Row) => value(row, id),
  })),
]
const catalogue = useQuery(subjects())
const work = computed(() => catalogue.data.value?.find((one) => one.id === 'work'))
/** The orders as the server asks for them, in the columns and the order of this page. */
const ask = computed<Asked>(() => ({
  ...data.value?.ask,
  columns: ['number', 'title', 'asset', 'state', 'time_in_state', 'rank', 'window_end', 'crew', 'estimated'],
  sort: [{ column: order.value.key, descending: order.value.descending }],
  ...past.value,
}))
const order = computed<LedgerOrder>({
  get: () => ({ key: read('by') || 'window_end', descending: read('desc') === 'yes' }),
  set: (next) => change({ by: next?.key ?? '', desc: next?.descending ? 'yes' : '' }),
})
const byAsset = computed<Asked>(() => ({
  ...ask.value,
  sort: [],
  group: [{ column: 'asset' }],
  summaries: [{ column: 'estimated', of: 'sum' as const }],
}))
const ofAssets = useQuery(() => ({
  ...groups('work', byAsset.value),
  enabled: as.value === 'assets',
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <TallyNav />
  <h1 data-test="backlog-headline">{{ headline }}</h1>
  <p v-if="past.as_of" class="quiet">As it was on {{ dateTime(past.as_of) }}.</p>
  <ProblemNote :error="error" />
  <TallyTools :compares="false" />
  <template v-if="data">
    <KeyFigures :facts="facts" />
    <div class="cuts">
      <CutBlock
        v-for="(cut, place) in data.cuts"
        :key="cut"
        :name="names[cut]"
        :cut="cut"
        :groups="data.now.cuts[place] ?? []"
        :chosen="chosen(cut)"
        :limit="cut === 'state' ? (value) => limits.get(value) : undefined"
        @toggle="toggle(cut, $event)"
      />
      <section>
        <h2 class="ruled">At the end of each month</h2>
        <ChartFrame
          label="Open work by month"
          :columns="monthColumns"
          :rows="growth"
          :key-of="(row) => row.at"
        >
          <MonthBars label="Open orders, month by month" :months="bars" />
          <template #caption>
            <p class="small quiet">
              Open orders, those past their window below; {{ monthOf(data.now.at) }} as of now.
            </p>
          </template>
        </ChartFrame>
      </section>
    </div>
    <h2 class="ruled list">
      The orders
      <span class="ways quiet small no-print">
        <button
          v-for="way in ways"
          :key="way.key"
          class="plain"
          :class="{ here: as === way.key }"
          :data-test="`as-${way.key}`"
          @click="change({ as: way.key })"
        >
          {{ way.name }}
        </button>
      </span>
    </h2>
    <p v-if="!read('as') && data.comes_as === 'children'" class="small quiet">
      More than {{ whole(data.longest_list) }} orders: they come as counts first.
    </p>
    <LedgerTable
      v-if="as === 'children'"
      :columns="childColumns"
      :rows="childRows"
      :key-of="(row) => row.asset + row.kind"
      label="Open work by what is below"
      test="backlog-child"
    >
      <template #name="{ row }">
        <button v-if="row.kind === 'asset'" class="plain" data-row @click="change({ scope: row.asset })">
          {{ row.name }}
        </button>
        <span v-else class="quiet">{{ row.kind === 'own' ? 'itself' : 'formerly here' }}</span>
      </template>
    </LedgerTable>
    <template v-else-if="work">
      <ListGroups
        v-if="as === 'assets' && ofAssets.data.value"
        :subject="work"
        :answer="ofAssets.data.value"
        :ask="byAsset"
      />
      <ListRows v-else-if="as === 'orders'" v-model:order="order" :subject="work" :ask="ask" />
    </template>
    <EmptyState v-if="!now?.count" title="Nothing is open here"
      >Take a condition away, or look at another asset.</EmptyState
    >
  </template>
</template>

<style scoped>
.cuts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(400px, 100%), 1fr));
  gap: 18px 34px;
}

.list {
  margin-top: 22px;
}

.ways {
  display: flex;
  gap: 14px;
  margin-left: auto;
}

.ways .here {
  color: var(--accent);
  font-weight: 600;
}
</style>
