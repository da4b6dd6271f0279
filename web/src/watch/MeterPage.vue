<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { answer, api, type Ladder } from '../common/api'
import { ago, dateTime, reading } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import AlarmList from './AlarmList.vue'
import LadderEditor from './LadderEditor.vue'
import ReadingForm from './ReadingForm.vue'
import ReplayVerdict from './ReplayVerdict.vue'
import TrendChart from './TrendChart.vue'
import { emptyLadder, sameLadder } from './ladder'
import { useReplay } from './useReplay'

const props = defineProps<{ meter: string }>()
const { period, to } = useAddress()
const path = computed(() => ({ path: { code: props.meter } }))

const meter = useQuery({
  queryKey: ['meter', () => props.meter],
  queryFn: () => answer(api.GET('/api/v1/meters/{code}', { params: path.value })),
})
const ladder = useQuery({
  queryKey: ['ladder', () => props.meter],
  queryFn: () => answer(api.GET('/api/v1/meters/{code}/ladder', { params: path.value })),
})
const whole = useQuery({
  queryKey: ['period', period],
  queryFn: () => answer(api.GET('/api/v1/period', { params: { query: { period: period.value } } })),
})

/** The ladder as edited, by hand on the chart or in the list beside it. */
const draft = ref<Ladder>(emptyLadder())
const changed = computed(() => ladder.data.value !== undefined && !sameLadder(draft.value, ladder.data.value))
let from = ''
watch(
  ladder.data,
  (view) => {
    const version = `${props.meter} ${view?.number}`
    // What was being edited is kept when the same version is only read again.
    if (view && version !== from) reset()
    from = version
  },
  { immediate: true },
)

function reset() {
  const { raise_interval_seconds, raise_interval_of, separate_work, rungs } =
    ladder.data.value ?? emptyLadder()
  draft.value = structuredClone({
    raise_interval_seconds,
    raise_interval_of,
    separate_work,
    rungs: JSON.parse(JSON.stringify(rungs)),
  })
}

const { replay, error: unplayed } = useReplay(() => props.meter, draft, period)
const entering = ref(false)
</script>

<template>
  <ProblemNote :error="meter.error.value ?? ladder.error.value" />
  <template v-if="meter.data.value">
    <div class="head">
      <div>
        <p class="crumb">
          <RouterLink :to="to('/watch')">Watch</RouterLink> ·
          <RouterLink :to="to('/watch', { scope: meter.data.value.asset.code })">
            {{ meter.data.value.asset.name }}
          </RouterLink>
        </p>
        <h1>{{ meter.data.value.name }}</h1>
        <p class="now">
          <template v-if="meter.data.value.last">
            <strong>
              {{ reading(meter.data.value.last.value, meter.data.value.unit, meter.data.value.grades) }}
            </strong>
            <SeverityStrokes :severity="meter.data.value.worst_severity" word />
            <span class="quiet" :title="dateTime(meter.data.value.last.at)">
              {{ ago(meter.data.value.last.at, now) }}
            </span>
          </template>
          <span v-else class="quiet">never read</span>
          <span class="quiet small">
            {{ meter.data.value.code }} · {{ meter.data.value.readings.toLocaleString('en-GB') }} readings
          </span>
        </p>
      </div>
      <div class="tools">
        <ElButton @click="entering = !entering">Enter a reading</ElButton>
        <RouterLink :to="to('/setup/files/readings')" class="press">Import readings</RouterLink>
      </div>
    </div>
    <ReadingForm v-if="entering" :meter="meter.data.value" @close="entering = false" />
    <div class="sides">
      <div>
        <TrendChart
          v-if="whole.data.value && ladder.data.value"
          v-model="draft"
          :meter="meter.data.value"
          :span="whole.data.value.span"
          :saved="ladder.data.value"
          :replay="replay"
        />
        <ReplayVerdict
          v-model="draft"
          :meter="meter.data.value"
          :replay="replay"
          :error="unplayed"
          :edited="changed"
        />
        <AlarmList :meter="meter.data.value.code" />
      </div>
      <LadderEditor
        v-if="ladder.data.value"
        v-model="draft"
        :meter="meter.data.value"
        :saved="ladder.data.value"
        :changed="changed"
        @reset="reset"
      />
    </div>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  gap: 20px;
  align-items: flex-start;
}

.crumb {
  margin: 0 0 2px;
  font-size: 13.5px;
}

.now {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  margin: 4px 0 12px;
}

.now strong {
  font: 600 20px var(--serif);
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: flex-end;
}

.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 336px;
  gap: 28px;
}

@media (max-width: 1000px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
