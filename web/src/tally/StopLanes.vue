<script setup lang="ts">
import { computed } from 'vue'
import ChartFrame from '../common/chart/ChartFrame.vue'
import { ticks } from '../common/chart/ticks'
import type { Schemas } from '../common/api'
import { dateTime, duration } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'

type Body = Schemas['DowntimeBody']
type Lane = Schemas['Lane']

/** What stood when, each asset on a line of its own, below what it put down. */
const props = defineProps<{ line: Body }>()
const emit = defineEmits<{ look: [code: string] }>()

const ROW = 22
const NAMES = 270
const BOTTOM = 24
const from = computed(() => Date.parse(props.line.window.start))
const to = computed(() => Date.parse(props.line.window.end))
const height = computed(() => props.line.lanes.length * ROW + BOTTOM)
const name = (id: number) => props.line.assets[String(id)]?.name ?? ''
const code = (id: number) => props.line.assets[String(id)]?.code ?? ''
const x = (at: string | number, width: number) => {
  const share = ((typeof at === 'number' ? at : Date.parse(at)) - from.value) / (to.value - from.value)
  return NAMES + share * Math.max(1, width - NAMES)
}
const wide = (span: Schemas['Span'], width: number) =>
  Math.max(1.5, x(span.end, width) - x(span.start, width))
const total = (lane: Lane) => lane.ms.reduce((sum, one) => sum + one, 0)
/** The way up from a lane to the one that it put down. */
const ways = computed(() =>
  props.line.lanes.flatMap((lane, place) =>
    lane.above == null
      ? []
      : [{ place, from: place * ROW + ROW / 2, to: lane.above * ROW + ROW / 2, depth: lane.depth }],
  ),
)
const says = (lane: Lane, stop: Schemas['Stop']) => {
  const by = stop.of === lane.asset ? '' : `, by ${name(stop.of)}`
  return `${name(lane.asset)}: ${stop.kind}${by}, ${dateTime(stop.span.start)}, ${duration(Date.parse(stop.span.end) - Date.parse(stop.span.start))}`
}
const columns: LedgerColumn<Lane>[] = [
  { key: 'asset', name: 'Asset', text: (lane) => name(lane.asset), lead: true },
  {
    key: 'unplanned',
    name: 'Unplanned',
    text: (lane) => duration(lane.ms[0] ?? 0),
    by: (lane) => lane.ms[0],
    num: true,
  },
  {
    key: 'planned',
    name: 'Planned',
    text: (lane) => duration(lane.ms[1] ?? 0),
    by: (lane) => lane.ms[1],
    num: true,
  },
  {
    key: 'external',
    name: 'External',
    text: (lane) => duration(lane.ms[2] ?? 0),
    by: (lane) => lane.ms[2],
    num: true,
  },
]
</script>

<template>
  <ChartFrame
    label="Downtime on a line of time"
    :columns="columns"
    :rows="line.lanes"
    :key-of="(lane) => lane.asset"
  >
    <template #default="{ width }">
      <svg :width="width" :height="height" role="group" aria-label="What stood when">
        <rect
          v-for="span in line.required"
          :key="span.start"
          class="required"
          :x="x(span.start, width)"
          y="0"
          :width="wide(span, width)"
          :height="height - BOTTOM"
        />
        <path
          v-for="way in ways"
          :key="way.place"
          class="way"
          :d="`M ${way.depth * 12 - 6} ${way.to + 6} V ${way.from} h 5`"
        />
        <g
          v-for="(lane, place) in line.lanes"
          :key="lane.asset"
          :transform="`translate(0 ${place * ROW})`"
          :data-test="`lane-${code(lane.asset)}`"
        >
          <text
            class="name"
            :class="{ first: !place }"
            :x="lane.depth * 12 + 2"
            :y="ROW - 7"
            tabindex="0"
            role="button"
            @click="emit('look', code(lane.asset))"
            @keydown.enter="emit('look', code(lane.asset))"
          >
            {{ name(lane.asset).slice(0, 34 - lane.depth * 2) }}
          </text>
          <text class="sum" :x="NAMES - 10" :y="ROW - 7">{{ duration(total(lane)) }}</text>
          <line class="base" :x1="NAMES" :x2="width" :y1="ROW - 0.5" :y2="ROW - 0.5" />
          <rect
            v-for="stop in lane.stops"
            :key="stop.row + stop.span.start"
            :class="[stop.kind, { own: stop.of === lane.asset }]"
            :x="x(stop.span.start, width)"
            y="4"
            :width="wide(stop.span, width)"
            :height="ROW - 9"
          >
            <title>{{ says(lane, stop) }}</title>
          </rect>
        </g>
        <g v-for="tick in ticks(from, to, Math.max(2, (width - NAMES) / 80))" :key="tick.at">
          <line
            class="tick"
            :x1="x(tick.at, width)"
            :x2="x(tick.at, width)"
            :y1="height - BOTTOM"
            :y2="height - BOTTOM + 4"
          />
          <text class="says" :x="x(tick.at, width)" :y="height - 6">{{ tick.says }}</text>
        </g>
      </svg>
    </template>
    <template #caption>
      <p class="small quiet key">
        <span><i class="unplanned own" /> unplanned</span>
        <span><i class="planned own" /> planned</span>
        <span><i class="external own" /> external</span>
        <span><i class="unplanned" /> pale: put down by what stands below</span>
        <span v-if="line.required.length"><i class="required" /> required to run</span>
        <span v-if="line.more">{{ line.more }} more stood for less</span>
      </p>
    </template>
  </ChartFrame>
</template>

<style scoped>
svg {
  display: block;
}

.required {
  fill: var(--paper-2);
  background: var(--paper-2);
}

.base,
.tick {
  stroke: var(--rule);
}

.way {
  fill: none;
  stroke: var(--rule-2);
}

text {
  font: 13px var(--sans);
  fill: var(--ink);
}

.name {
  cursor: pointer;
}

.name:hover {
  text-decoration: underline;
}

.first {
  font-weight: 600;
}

.sum {
  text-anchor: end;
  fill: var(--ink-2);
}

.says {
  text-anchor: middle;
  font-size: 12px;
  fill: var(--ink-2);
}

.unplanned {
  fill: var(--serious);
  background: var(--serious);
}

.planned {
  fill: var(--accent);
  background: var(--accent);
}

.external {
  fill: var(--other);
  background: var(--other);
}

.unplanned:not(.own),
.planned:not(.own),
.external:not(.own) {
  opacity: 0.45;
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
</style>
