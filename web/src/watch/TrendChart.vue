<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced, useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { components } from '../generated/api'
import { answer, api, type Ladder, type MeterDetail } from '../common/api'
import { date, unit } from '../common/format'
import { LEFT, RIGHT, type View } from './geometry'
import RungLines from './RungLines.vue'
import TimeLanes from './TimeLanes.vue'
import { useTrend } from './useTrend'

const props = defineProps<{
  meter: MeterDetail
  /** All of the period; the view zooms within it. */
  span: { start: string; end: string }
  /** The ladder in force, drawn thin under the edited one. */
  saved: Ladder
  /** What the edited ladder would have done. */
  replay?: components['schemas']['ReplayView']
}>()
const draft = defineModel<Ladder>({ required: true })

const HEIGHT = 330
const whole = computed<View>(() => ({ from: Date.parse(props.span.start), to: Date.parse(props.span.end) }))
const view = ref<View>(whole.value)
watch(whole, () => (view.value = whole.value))
const zoomed = computed(() => view.value.from > whole.value.from || view.value.to < whole.value.to)
const asked = refDebounced(view, 120)

const { data, isFetching } = useQuery({
  queryKey: ['series', () => props.meter.code, asked],
  queryFn: () =>
    answer(
      api.GET('/api/v1/meters/{code}/readings', {
        params: {
          path: { code: props.meter.code },
          query: {
            from: new Date(asked.value.from).toISOString(),
            to: new Date(asked.value.to).toISOString(),
            points: 1200,
          },
        },
      }),
    ),
  placeholderData: (before) => before,
})
const points = computed(() => (data.value?.points ?? []) as [number, number][])

const box = useTemplateRef<HTMLElement>('box')
const canvas = useTemplateRef<HTMLElement>('canvas')
const { width } = useElementSize(box)
const setpoints = computed(() =>
  draft.value.rungs.flatMap((rung) => (rung.setpoint == null ? [] : [rung.setpoint])),
)
const { range } = useTrend(canvas, { points, view, setpoints, width, meter: () => props.meter, whole })
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
              : `${points.length} points for ${data.of.toLocaleString('en-GB')} readings, extremes kept`
          }}
        </template>
        <template v-if="data?.quarantined.length"> · {{ data.quarantined.length }} in quarantine</template>
      </span>
      <button v-if="zoomed" class="act" @click="view = whole">Whole period</button>
      <span v-else>wheel or drag to zoom and move</span>
    </p>
    <div ref="box" class="box" :style="{ height: `${HEIGHT}px` }" :aria-busy="isFetching">
      <div
        ref="canvas"
        class="canvas"
        role="img"
        :aria-label="`Trend of ${meter.name} in ${unit(meter.unit) || 'counts'}`"
      />
      <RungLines
        v-if="range && meter.kind !== 'grade'"
        v-model="draft"
        :range="range"
        :height="HEIGHT"
        :unit="unit(meter.unit)"
      />
      <p v-if="data && !data.of" class="none quiet">Nothing was read in this stretch of time.</p>
    </div>
    <TimeLanes
      :meter="meter.code"
      :view="view"
      :width="width"
      :left="LEFT"
      :right="RIGHT"
      :replay="replay"
      :ladder="draft"
    />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  margin: 0 0 4px;
  min-height: 26px;
  align-items: center;
}

.box {
  position: relative;
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
