<script setup lang="ts">
import { series } from '../common/queries/watch'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced, useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import {
  type ForecastView,
  type Ladder,
  type MeterDetail,
  type Proposal,
  type ReplayView,
} from '../common/api'
import { date, dateTime, reading, unit, whole as wholeNumber } from '../common/format'
import ChartFrame from '../common/chart/ChartFrame.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import ForecastLine from './ForecastLine.vue'
import { LEFT, RIGHT, type View } from '../common/chart/geometry'
import GhostLines from './GhostLines.vue'
import OtherMeter from './OtherMeter.vue'
import { onValue } from './ladder'
import RungLines from './RungLines.vue'
import TimeLanes from './TimeLanes.vue'
import { useOther } from './useOther'
import { useTrend } from './useTrend'

const props = defineProps<{
  meter: MeterDetail
  /** All of the period; the view zooms within it. */
  span: { start: string; end: string }
  /** The ladder in force, drawn thin under the edited one. */
  saved: Ladder
  /** What the edited ladder would have done. */
  replay?: ReplayView
  /** Setpoints that are proposed, as thin lines to press. */
  proposals?: Proposal[]
  forecast?: ForecastView
  /** The time axis goes on to here. */
  ahead?: number
}>()
const emit = defineEmits<{ take: [Proposal] }>()
const draft = defineModel<Ladder>({ required: true })
/** The stretch that is shown; also what a baseline and a forecast are taken from. */
const view = defineModel<View>('view', { required: true })

const HEIGHT = 330
const whole = computed<View>(() => ({
  from: Date.parse(props.span.start),
  to: Math.max(Date.parse(props.span.end), props.ahead ?? 0),
}))
const zoomed = computed(() => view.value.from > whole.value.from || view.value.to < whole.value.to)
const asked = refDebounced(view, 120)

const { data, error, refetch, isFetching } = useQuery(() => ({
  ...series(props.meter.code, asked.value, 1200),
  placeholderData: keepPreviousData,
}))
const points = computed(() => (data.value?.points ?? []) as [number, number][])

const canvas = useTemplateRef<HTMLElement>('canvas')
const { width } = useElementSize(canvas)
const label = computed(() => `Trend of ${props.meter.name} in ${unit(props.meter.unit) || 'counts'}`)
const columns = computed<LedgerColumn<[number, number]>[]>(() => [
  { key: 'at', name: 'Read at', text: ([at]) => dateTime(at), by: ([at]) => at, lead: true },
  {
    key: 'value',
    name: 'Value',
    text: ([, value]) => reading(value, props.meter.unit, props.meter.grades),
    by: ([, value]) => value,
    num: true,
  },
])
const setpoints = computed(() => [
  ...draft.value.rungs.filter(onValue).flatMap((rung) => rung.setpoint ?? []),
  ...(props.proposals ?? []).map((proposal) => proposal.setpoint),
])
const { other, chosen, choices } = useOther(() => props.meter, asked)
const { range } = useTrend(canvas, { points, view, setpoints, width, meter: () => props.meter, whole, other })
</script>

<template>
  <div class="trend">
    <p class="small quiet bar">
      <span>
        {{ date(view.from) }} – {{ date(view.to) }}
        <template v-if="data">
          ·
          {{
            data.of === points.length
              ? `${data.of} readings`
              : `${points.length} points for ${wholeNumber(data.of)} readings, extremes kept`
          }}
        </template>
        <template v-if="data?.quarantined.length"> · {{ data.quarantined.length }} in quarantine</template>
      </span>
      <span class="tools">
        <OtherMeter v-if="choices.length" v-model="chosen" :choices="choices" :unit="other?.unit" />
        <button v-if="zoomed" class="act" @click="view = whole">Whole period</button>
        <span v-else>wheel zooms, dragging moves</span>
      </span>
    </p>
    <ChartFrame
      :label="label"
      :height="HEIGHT"
      :busy="isFetching"
      :columns="columns"
      :rows="points"
      :key-of="([at]) => at"
    >
      <div ref="canvas" class="canvas" role="img" :aria-label="label" />
      <ForecastLine
        v-if="range && forecast?.line"
        :forecast="forecast"
        :range="range"
        :view="view"
        :width="width"
        :height="HEIGHT"
      />
      <GhostLines
        v-if="range && proposals?.length"
        :proposals="proposals"
        :range="range"
        :height="HEIGHT"
        :unit="unit(meter.unit)"
        @take="emit('take', $event)"
      />
      <RungLines
        v-if="range && meter.kind !== 'grade'"
        v-model="draft"
        :range="range"
        :height="HEIGHT"
        :unit="unit(meter.unit)"
      />
      <ProblemNote :error="error" :again="refetch" class="none" />
      <p v-if="data && !data.of" class="none quiet">Nothing was read in this stretch of time.</p>
      <template #caption>
        <TimeLanes
          :meter="meter.code"
          :view="view"
          :width="width"
          :left="LEFT"
          :right="RIGHT"
          :replay="replay"
          :ladder="draft"
        />
      </template>
    </ChartFrame>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  margin: 0 0 4px;
  min-height: 26px;
  align-items: center;
  gap: 2px 16px;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  white-space: nowrap;
  gap: 16px;
  align-items: center;
}

.canvas {
  position: absolute;
  inset: 0;
}

.none {
  position: absolute;
  inset: 40% 0 auto;
  text-align: center;
}
</style>
