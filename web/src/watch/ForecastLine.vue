<script setup lang="ts">
import { computed } from 'vue'
import type { ForecastView } from '../common/api'
import { date } from '../common/format'
import { type Range, type View, xOf, yOf } from '../common/chart/geometry'

const props = defineProps<{
  forecast: ForecastView
  range: Range
  view: View
  width: number
  height: number
}>()

const DAY = 86_400_000
/** The line through its turning point with one of its slopes, from the start of its window to the end of the view. */
function ends(slope: number): { from: [number, number]; to: [number, number] } {
  const line = props.forecast.line!
  const through = Date.parse(line.through_at)
  const place = (at: number): [number, number] => [
    xOf(at, props.view, props.width),
    yOf(line.through_value + (slope * (at - through)) / DAY, props.range, props.height),
  ]
  return {
    from: place(Math.max(props.view.from, Date.parse(props.forecast.span.start))),
    to: place(props.view.to),
  }
}
const line = computed(() => ends(props.forecast.line!.slope))
const wedge = computed(() => {
  const through = Date.parse(props.forecast.line!.through_at)
  const turn: [number, number] = [
    xOf(through, props.view, props.width),
    yOf(props.forecast.line!.through_value, props.range, props.height),
  ]
  const [upper, lower] = [
    ends(props.forecast.line!.slope_upper).to,
    ends(props.forecast.line!.slope_lower).to,
  ]
  return `M${turn} L${upper} L${lower} Z`
})
const marks = computed(() =>
  props.forecast.reached
    .filter((one) => Date.parse(one.at) <= props.view.to)
    .map((one) => ({
      key: one.rung,
      x: xOf(Date.parse(one.at), props.view, props.width),
      y: yOf(one.setpoint, props.range, props.height),
      says: date(one.at),
      // Words stand on the side that has room.
      left: xOf(Date.parse(one.at), props.view, props.width) > props.width - 110,
    })),
)
</script>

<template>
  <svg :width="width" :height="height" aria-hidden="true" data-test="forecast-line">
    <path class="wedge" :d="wedge" />
    <path class="line" :d="`M${line.from} L${line.to}`" />
    <g v-for="mark in marks" :key="mark.key">
      <circle :cx="mark.x" :cy="mark.y" r="4" />
      <text
        :x="mark.left ? mark.x - 6 : mark.x + 6"
        :y="mark.y - 8"
        :text-anchor="mark.left ? 'end' : 'start'"
      >
        {{ mark.says }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
  pointer-events: none;
  overflow: hidden;
}

.wedge {
  fill: var(--accent);
  opacity: 0.12;
}

.line {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.6;
  stroke-dasharray: 6 4;
}

circle {
  fill: var(--paper);
  stroke: var(--accent);
  stroke-width: 1.8;
}

text {
  font-size: 12px;
  font-weight: 600;
  fill: var(--accent);
}
</style>
