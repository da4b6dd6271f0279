<script setup lang="ts">
import { series } from '../common/queries/watch'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type Rung } from '../common/api'
import { date, dateTime, reading } from '../common/format'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { rangeOf } from '../common/chart/geometry'

const props = defineProps<{
  /** Code. */
  meter: string
  /** The moment in the middle right of the drawing. */
  at: string
  rungs: Rung[]
  unit: string
}>()

const DAY = 86_400_000
const [WIDTH, HEIGHT, BOTTOM] = [300, 120, 18]
const from = computed(() => Date.parse(props.at) - 45 * DAY)
const to = computed(() => Date.parse(props.at) + 10 * DAY)

const { data } = useQuery(() => series(props.meter, { from: from.value, to: to.value }, 300))
const points = computed(() => (data.value?.points ?? []) as [number, number][])
const range = computed(() => {
  const values = points.value.map(([, value]) => value)
  const top = Math.max(...values)
  const bottom = Math.min(...values)
  // Rungs far away would flatten the line.
  const near = props.rungs
    .map((rung) => rung.setpoint ?? NaN)
    .filter((setpoint) => setpoint < top + (top - bottom) * 0.8 && setpoint > bottom - (top - bottom) * 0.8)
  return rangeOf([...values, ...near])
})
const x = (at: number) => ((at - from.value) / (to.value - from.value)) * WIDTH
const y = (value: number) =>
  (HEIGHT - BOTTOM) * (1 - (value - range.value.low) / (range.value.high - range.value.low))
const line = computed(() =>
  points.value.map(([at, value]) => `${x(at).toFixed(1)},${y(value).toFixed(1)}`).join(' '),
)
const rungLines = computed(() =>
  props.rungs
    .filter(
      (rung) => rung.setpoint != null && rung.setpoint > range.value.low && rung.setpoint < range.value.high,
    )
    .map((rung) => ({
      severity: rung.severity,
      setpoint: rung.setpoint!,
      y: y(rung.setpoint!),
      low: rung.side === 'low',
    })),
)
const columns: LedgerColumn<[number, number]>[] = [
  { key: 'at', name: 'Read at', text: ([at]) => dateTime(at), by: ([at]) => at, lead: true },
  {
    key: 'value',
    name: 'Value',
    text: ([, value]) => reading(value, props.unit),
    by: ([, value]) => value,
    num: true,
  },
]
const moment = computed(() => x(Date.parse(props.at)))
</script>

<template>
  <ChartFrame
    v-if="points.length"
    label="The readings around that moment"
    :columns="columns"
    :rows="points"
    :key-of="([at]) => at"
  >
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" aria-label="The readings around that moment">
      <g v-for="rung in rungLines" :key="rung.severity + rung.setpoint" :data-severity="rung.severity">
        <path :d="`M0 ${rung.y}H${WIDTH}`" class="rung" />
        <text x="2" :y="rung.low ? rung.y + 11 : rung.y - 3">{{ rung.setpoint }} {{ unit }}</text>
      </g>
      <path class="moment" :d="`M${moment} 0V${HEIGHT - BOTTOM}`" />
      <polyline :points="line" />
      <template v-if="points.length < 40">
        <circle v-for="[when, value] in points" :key="when" :cx="x(when)" :cy="y(value)" r="2.4" />
      </template>
      <path class="axis" :d="`M0 ${HEIGHT - BOTTOM}H${WIDTH}`" />
      <text x="0" :y="HEIGHT - 4">{{ date(from) }}</text>
      <text :x="WIDTH" :y="HEIGHT - 4" text-anchor="end">{{ date(to) }}</text>
    </svg>
  </ChartFrame>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  margin-top: 10px;
}

polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.3;
}

.axis {
  stroke: var(--ink);
}

.moment {
  stroke: var(--ink-3);
  stroke-dasharray: 2 3;
}

.rung {
  stroke: currentColor;
  stroke-width: 1.4;
}

text {
  font-size: 11.5px;
  fill: var(--ink-2);
}

g text {
  fill: currentColor;
  font-weight: 600;
}

@media print {
  svg {
    max-width: 460px;
  }
}
</style>
