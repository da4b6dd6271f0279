<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { FinderPoint, Ladder } from '../common/api'
import { money, plain, unit as shown, whole } from '../common/format'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { FLOOR, HEIGHT, LEFT, TOP, WIDTH, columnsOf, greatest, placeOf, shapeOf, stepOf } from './finder'
import GivenLines from './GivenLines.vue'
import { moveRung } from './ladder'
import { type Subject, finder } from './queries/tried'
import { useJudging } from './useJudging'

const props = defineProps<{
  /** Whose curve it is. */
  of: Subject
  /** UCUM code. */
  unit: string
  /** Of the rung that is moved, in the ladder's list. */
  place: number
}>()
const draft = defineModel<Ladder>({ required: true })
const { period } = useAddress()
const { judging } = useJudging()

const shape = computed(() => shapeOf(draft.value, props.place))
const ask = (compare_deadbands: boolean) =>
  finder(props.of, shape.value, {
    period: period.value,
    ...judging.value,
    ladder: draft.value,
    rung: props.place,
    compare_deadbands,
  })
const { data, error } = useQuery(() => ({ ...ask(false), placeholderData: keepPreviousData }))

const points = computed(() => data.value?.points ?? [])

const comparing = ref(false)
/** With other deadbands to compare. */
const compared = useQuery(() => ({
  ...ask(true),
  enabled: comparing.value && points.value.length > 0,
  placeholderData: keepPreviousData,
}))
/** The best setting of each deadband. */
const bests = computed(() =>
  (compared.data.value?.of_each_deadband ?? []).flatMap(({ point, gain }) => {
    const its = compared.data.value?.points[point]
    return its ? [{ ...its, gain }] : []
  }),
)
const most = computed(() => greatest(points.value))
const step = computed(() => stepOf(points.value))
const columns = computed(() => columnsOf(points.value))
/** Where the setpoint stands now. */
const now = computed(() => placeOf(draft.value.rungs[props.place]?.setpoint, points.value))

function take(setpoint: number, deadband?: number | null) {
  const rung = draft.value.rungs[props.place]
  if (!rung) return
  moveRung(rung, setpoint)
  if (deadband == null) return
  rung.deadband = deadband
  rung.reset = undefined
}
/** The column that keys have come to. */
const looked = ref<number>()
function walk(event: KeyboardEvent) {
  const [at, last] = [looked.value ?? 0, points.value.length - 1]
  const to = {
    ArrowLeft: at - 1,
    ArrowDown: at - 1,
    ArrowRight: at + 1,
    ArrowUp: at + 1,
    Home: 0,
    End: last,
  }[event.key]
  const takes = event.key === 'Enter' || event.key === ' '
  if (to === undefined && !takes) return
  event.preventDefault()
  if (to !== undefined) looked.value = Math.min(Math.max(to, 0), last)
  else if (points.value[at]) take(points.value[at].setpoint)
}
watch(points, (all) => {
  if (looked.value !== undefined && looked.value >= all.length) looked.value = undefined
})
const DAY = 86_400_000
const tried = computed<LedgerColumn<FinderPoint>[]>(() => [
  {
    key: 'setpoint',
    name: 'Setpoint',
    unit: shown(props.unit),
    text: (point) => plain(point.setpoint),
    by: (point) => point.setpoint,
    num: true,
    lead: true,
  },
  {
    key: 'work',
    name: 'Work orders',
    text: (point) => whole(point.work),
    by: (point) => point.work,
    num: true,
  },
  {
    key: 'nuisance',
    name: 'Nuisance warnings',
    text: (point) => whole(point.nuisance),
    by: (point) => point.nuisance,
    num: true,
  },
  {
    key: 'missed',
    name: 'Failures missed',
    text: (point) => whole(point.missed),
    by: (point) => point.missed,
    num: true,
  },
  {
    key: 'warning',
    name: 'Warning',
    unit: 'days',
    text: (point) => (point.median_warning_ms == null ? '' : plain(point.median_warning_ms / DAY)),
    by: (point) => point.median_warning_ms,
    num: true,
  },
])
const best = computed(() => {
  const first = data.value?.best
  const point = first && points.value[first.point]
  return point ? { ...point, gain: first.gain } : undefined
})
/** What it would have saved, where it is known what such work and such failures cost. */
const gained = (gain: number | null | undefined) =>
  gain == null
    ? ''
    : `, ${gain < 0 ? 'a loss of' : 'a gain of'} ${money(Math.abs(Math.round(gain)))} ${installation.value.currency}`
</script>

<template>
  <div data-test="finder">
    <ProblemNote :error="error" />
    <template v-if="points.length && data">
      <ChartFrame
        label="What each setpoint would have come to"
        :columns="tried"
        :rows="points"
        :key-of="(point) => point.setpoint"
      >
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          role="slider"
          tabindex="0"
          aria-label="Setpoint to try"
          :aria-valuemin="0"
          :aria-valuemax="points.length - 1"
          :aria-valuenow="looked ?? 0"
          :aria-valuetext="points[looked ?? 0]?.says"
          data-test="curve"
          @focus="looked ??= best ? data.best?.point : 0"
          @blur="looked = undefined"
          @keydown="walk"
        >
          <path class="axis" :d="`M${LEFT} ${FLOOR + 0.5}H${WIDTH}`" />
          <text :x="LEFT - 6" :y="TOP + 5" text-anchor="end">{{ most.most }}</text>
          <text :x="LEFT - 6" :y="FLOOR" text-anchor="end">0</text>
          <g
            v-for="(column, index) in columns"
            :key="column.x"
            class="column"
            :class="{ looked: looked === index }"
            @click="take(column.point.setpoint)"
          >
            <title>{{ column.point.says }}</title>
            <rect class="catch" :x="column.x" :y="TOP - 6" :width="step" :height="FLOOR - TOP + 6" />
            <rect
              class="work"
              :x="column.middle - step * 0.36"
              :y="column.work"
              :width="step * 0.34"
              :height="FLOOR - column.work"
            />
            <rect
              class="nuisance"
              :x="column.middle + step * 0.02"
              :y="column.nuisance"
              :width="step * 0.34"
              :height="FLOOR - column.nuisance"
            />
            <circle
              v-if="column.warning !== undefined"
              class="warning"
              :class="{ some: column.point.missed || column.point.too_late }"
              :cx="column.middle"
              :cy="column.warning"
              r="3.4"
            />
          </g>
          <path v-if="now !== undefined" class="now" :d="`M${now} ${TOP - 8}V${FLOOR}`" />
          <text :x="LEFT" :y="HEIGHT - 6">{{ plain(points[0]!.setpoint) }}</text>
          <text :x="WIDTH" :y="HEIGHT - 6" text-anchor="end">
            {{ plain(points.at(-1)!.setpoint) }} {{ shown(unit) }}
          </text>
        </svg>
        <template #caption>
          <p class="small key">
            <span class="dot">●</span> days of warning, up to {{ Math.floor(most.longest) }}
            <template v-if="data.failures">
              ({{
                data.failures === 1
                  ? 'hollow where the failure is missed'
                  : `hollow where some of the ${data.failures} failures are missed`
              }})</template
            >
            <span class="bar work-key">■</span> work orders <span class="bar nuisance-key">■</span> nuisance
            warnings. Press a column to take its setpoint; with keys, arrows lead along and Enter takes.
          </p>
        </template>
      </ChartFrame>
      <p v-if="looked !== undefined" class="small" data-test="looked">{{ points[looked]?.says }}</p>
      <p v-if="best" class="small">
        {{ best.gain == null ? 'Most caught for least work' : 'Best in money' }}:
        <strong>{{ best.says }}{{ gained(best.gain) }}</strong>
        <button class="act" data-test="take-best" @click="take(best.setpoint)">Take it</button>
        <button class="act" :aria-expanded="comparing" data-test="deadbands" @click="comparing = !comparing">
          Other deadbands
        </button>
      </p>
      <p v-else class="small quiet">No setpoint catches a failure of the period in time.</p>
      <ul v-if="comparing && bests.length" class="small">
        <li v-for="one in bests" :key="one.deadband ?? 0" data-test="of-deadband">
          deadband {{ plain(one.deadband ?? 0) }}: {{ one.says }}{{ gained(one.gain) }}
          <button class="act" @click="take(one.setpoint, one.deadband)">Take it</button>
        </li>
      </ul>
      <GivenLines :lines="data.assumptions" />
    </template>
    <p v-else-if="data" class="quiet">There is nothing to try: the readings of the period are all alike.</p>
  </div>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 680px;
}

text {
  font-size: 11.5px;
  fill: var(--ink-2);
}

.axis {
  stroke: var(--ink);
}

.column {
  cursor: pointer;
}

.catch {
  fill: transparent;
}

.column.looked .catch,
.column:hover .catch {
  fill: var(--accent-soft);
}

.work {
  fill: var(--rule-2);
}

.nuisance {
  fill: var(--alert);
}

.warning {
  fill: var(--better);
  stroke: var(--better);
  stroke-width: 1.4;
}

.warning.some {
  fill: var(--paper);
}

.now {
  stroke: var(--accent);
  stroke-width: 1.6;
  stroke-dasharray: 4 3;
}

.key {
  margin: 2px 0;
}

.dot {
  color: var(--better);
}

.bar {
  margin-left: 12px;
}

.work-key {
  color: var(--rule-2);
}

.nuisance-key {
  color: var(--alert);
}

.act {
  margin-left: 10px;
}

ul {
  margin: 2px 0;
  padding: 0;
  list-style: none;
}
</style>
