<script setup lang="ts">
import ChartFrame from '../common/chart/ChartFrame.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { alarmPerformance } from './queries/alarms'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { whole, date, localDate } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import WatchNav from './WatchNav.vue'

const { scope, period, read, change, to } = useAddress()

/** What counts as chattering: so many entries of one rung, within so many seconds. The first setting is IEC 62682's. */
const [ENTRIES, SECONDS] = [3, 60]
const withins = [
  { seconds: 60, words: 'a minute' },
  { seconds: 600, words: '10 minutes' },
  { seconds: 3_600, words: 'an hour' },
  { seconds: 86_400, words: 'a day' },
  { seconds: 604_800, words: 'a week' },
]
const chatter = computed(() => {
  const [entries, seconds] = read('chatter').split('/').map(Number)
  return { entries: entries || ENTRIES, seconds: seconds || SECONDS }
})
function setChatter(parts: { entries?: number; seconds?: number }) {
  const { entries, seconds } = { ...chatter.value, ...parts }
  change({ chatter: entries === ENTRIES && seconds === SECONDS ? '' : `${entries}/${seconds}` })
}
const number = (event: Event) => Number((event.target as HTMLSelectElement).value)
const { data, error } = useQuery(() => ({
  ...alarmPerformance(scope.value, period.value, chatter.value),
  placeholderData: keepPreviousData,
}))
const share = (part: number, whole: number) => (whole ? `${Math.round((100 * part) / whole)} %` : '–')
const figures = computed(() => {
  const all = data.value
  if (!all) return []
  return [
    {
      name: 'a day',
      value: all.per_day.toFixed(all.per_day < 10 ? 2 : 0),
      says: 'alarms that began, by day',
    },
    {
      name: 'led to work',
      value: share(all.led_to_work, all.alarms),
      says: 'raised, escalated or joined work',
    },
    {
      name: 'nothing wrong',
      value: share(all.nothing_wrong, all.judged),
      says: `of the ${all.judged} alarms whose work has a verdict`,
    },
    {
      name: 'chattering',
      value: String(all.chattering),
      says: 'entries of a rung that followed too closely',
    },
    { name: 'stale', value: String(all.stale), says: 'stood for more than 24 hours' },
    { name: 'silences', value: String(all.silent), says: 'times a meter was not read for too long' },
    { name: 'shelved', value: String(all.shelved), says: 'meters that were shelved at some time' },
  ]
})
const WIDTH = 1000
const HEIGHT = 84
const bars = computed(() => {
  const days = data.value?.by_day ?? []
  const most = Math.max(1, ...days.map((day) => day.alarms))
  const width = WIDTH / Math.max(1, days.length)
  return days.map(({ date: day, alarms }, index) => ({
    key: day,
    x: index * width,
    width: Math.max(0.8, width - 0.6),
    height: (alarms / most) * HEIGHT,
    title: `${localDate(day)}: ${alarms}`,
  }))
})
type Day = NonNullable<typeof data.value>['by_day'][number]
const dayColumns: LedgerColumn<Day>[] = [
  { key: 'date', name: 'Day', text: (day) => localDate(day.date), by: (day) => day.date, lead: true },
  { key: 'alarms', name: 'Alarms', text: (day) => whole(day.alarms), by: (day) => day.alarms, num: true },
]
const busiest = computed(() => Math.max(0, ...(data.value?.by_day ?? []).map((day) => day.alarms)))

type Worst = NonNullable<typeof data.value>['meters'][number]
/** A count, where there is any. */
const some = (count: number) => (count ? whole(count) : '')
const columns: LedgerColumn<Worst>[] = [
  {
    key: 'meter',
    name: 'Meter, the worst first',
    by: (row) => `${row.asset.name}: ${row.meter_name}`,
    lead: true,
  },
  { key: 'alarms', name: 'Alarms', text: (row) => whole(row.alarms), by: (row) => row.alarms, num: true },
  {
    key: 'share',
    name: 'Share',
    text: (row) => share(row.alarms, data.value?.alarms ?? 0),
    by: null,
    num: true,
  },
  {
    key: 'chattering',
    name: 'Chattering',
    text: (row) => some(row.chattering),
    by: (row) => row.chattering,
    num: true,
  },
  { key: 'stale', name: 'Stale', text: (row) => some(row.stale), by: (row) => row.stale, num: true },
  {
    key: 'led',
    name: 'Led to work',
    text: (row) => some(row.led_to_work),
    by: (row) => row.led_to_work,
    num: true,
  },
  {
    key: 'nothing',
    name: 'Nothing wrong',
    text: (row) => (row.judged ? `${row.nothing_wrong} of ${row.judged}` : ''),
    by: (row) => (row.judged ? row.nothing_wrong / row.judged : undefined),
    num: true,
  },
]
</script>

<template>
  <WatchNav />
  <ProblemNote :error="error" />
  <template v-if="data">
    <h1>
      {{ whole(data.alarms) }} alarms in {{ Math.round(data.days) }} days<template v-if="data.meters[0]"
        >, {{ share(data.meters[0].alarms, data.alarms) }} of them from one meter</template
      >
    </h1>
    <dl class="figures">
      <div v-for="figure in figures" :key="figure.name">
        <dt>{{ figure.name }}</dt>
        <dd>
          <strong :data-test="`performance-${figure.name.replaceAll(' ', '-')}`">{{ figure.value }}</strong>
          <span class="quiet small">{{ figure.says }}</span>
        </dd>
      </div>
    </dl>
    <ChartFrame
      v-if="bars.length"
      label="Alarms by day"
      :columns="dayColumns"
      :rows="data.by_day"
      :key-of="(day) => day.date"
    >
      <svg
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        preserveAspectRatio="none"
        role="img"
        aria-label="Alarms by day"
      >
        <rect
          v-for="bar in bars"
          :key="bar.key"
          :x="bar.x"
          :y="HEIGHT - bar.height"
          :width="bar.width"
          :height="bar.height"
        >
          <title>{{ bar.title }}</title>
        </rect>
      </svg>
      <template #caption>
        <figcaption class="small quiet">
          <span>{{ date(data.span.start) }}</span>
          <span>alarms by day, {{ busiest }} on the busiest</span>
          <span>{{ date(data.span.end) }}</span>
        </figcaption>
      </template>
    </ChartFrame>
    <p class="chatter quiet">
      <label>
        Chattering is
        <select
          class="line"
          name="chatter-entries"
          :value="chatter.entries"
          @change="setChatter({ entries: number($event) })"
        >
          <option v-for="n in [2, 3, 4, 5, 10]" :key="n">{{ n }}</option>
        </select>
        entries of one rung
      </label>
      <label>
        within
        <select
          class="line"
          name="chatter-within"
          :value="chatter.seconds"
          @change="setChatter({ seconds: number($event) })"
        >
          <option v-for="one in withins" :key="one.seconds" :value="one.seconds">{{ one.words }}</option>
        </select>
      </label>
    </p>
    <LedgerTable
      v-if="data.meters.length"
      :columns="columns"
      :rows="data.meters"
      :key-of="(row) => row.meter"
      label="Meters, the worst first"
      test="worst-meter"
    >
      <template #meter="{ row }">
        <RouterLink :to="to(`/watch/${row.meter}`)" data-row
          >{{ row.asset.name }}: {{ row.meter_name }}</RouterLink
        >
        <span class="quiet small"> {{ row.meter }}</span>
      </template>
    </LedgerTable>
    <EmptyState v-else title="No alarm began in this period"
      >Choose a longer period, or a wider scope.</EmptyState
    >
    <p class="small quiet">Figures after IEC 62682: an alarm counts in the period in which it began.</p>
  </template>
</template>

<style scoped>
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(112px, 1fr));
  gap: 14px 18px;
  margin: 14px 0 18px;
}

.figures dt {
  font-size: 13.5px;
  color: var(--ink-2);
}

.figures dd {
  margin: 0;
}

.figures strong {
  font: 600 24px/1.2 var(--serif);
}

.figures span {
  display: block;
  line-height: 1.3;
}

figure {
  margin: 0 0 20px;
}

.chatter {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin: 12px 0 4px;
  font-size: 14px;
}

.chatter label {
  display: flex;
  gap: 6px;
  align-items: center;
}

.chatter .line {
  width: auto;
  min-height: 26px;
  padding: 0 4px;
  font-size: 14px;
}

svg {
  display: block;
  width: 100%;
  height: 84px;
  border-bottom: 1.5px solid var(--ink);
}

rect {
  fill: var(--alert);
}

figcaption {
  display: flex;
  justify-content: space-between;
  margin-top: 3px;
}
</style>
