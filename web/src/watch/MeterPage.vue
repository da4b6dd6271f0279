<script setup lang="ts">
import { period as periodNamed } from '../common/queries/plant'
import { ladder as ladderAsked, meter as meterAsked } from './queries/meters'
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { type ForecastView, type Ladder, type LadderView, type Proposal } from '../common/api'
import { whole as wholeNumber, ago, dateTime, reading } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { unshelve as takeOff } from './changes'
import { useDraft } from '../common/draft/useDraft'
import AlarmList from './AlarmList.vue'
import LadderEditor from './LadderEditor.vue'
import PanelButtons from './PanelButtons.vue'
import ReadingForm from './ReadingForm.vue'
import ReplayVerdict from './ReplayVerdict.vue'
import TrendChart from './TrendChart.vue'
import ForecastPanel from './ForecastPanel.vue'
import ProposalsPanel from './ProposalsPanel.vue'
import ReadingList from './ReadingList.vue'
import ShelfForm from './ShelfForm.vue'
import type { View } from '../common/chart/geometry'
import { emptyLadder, ladderOf, sameLadder } from './ladder'
import { useReplay } from './useReplay'

const props = defineProps<{ meter: string }>()
const { period, read, change, to } = useAddress()

const meter = useQuery(() => meterAsked(props.meter))
const ladder = useQuery(() => ladderAsked(props.meter))
const whole = useQuery(() => periodNamed(period.value))

/** The ladder as edited, by hand on the chart or in the list beside it. */
const edited = useDraft<LadderView & { meter: string }, Ladder>({
  theirs: () => ladder.data.value,
  of: (view) => view.meter,
  version: (view) => view.number,
  draftOf: ladderOf,
  same: sameLadder,
  name: () => `the limits of ${meter.data.value?.name ?? props.meter}`,
})
const { changed, newer, takeTheirs, keepMine, basedOn } = edited
const draft = computed({
  get: () => edited.draft.value ?? emptyLadder(),
  set: (ladder) => (edited.draft.value = ladder),
})

/** What the trend shows: the whole period, or the stretch that the address names. */
const view = ref<View>()
watch(
  () => whole.data.value,
  (period) => {
    if (!period) return
    const [from, to] = read('view').split('/').map(Date.parse)
    const named = from && to && to > from ? { from, to } : undefined
    view.value = named ?? { from: Date.parse(period.span.start), to: Date.parse(period.span.end) }
  },
  { immediate: true },
)

/** The address names a stretch that is less than the period, so that a link shows just that. */
const zoomed = refDebounced(
  computed(() => {
    const [shown, all] = [view.value, whole.data.value?.span]
    if (!shown || !all) return undefined
    if (shown.from <= Date.parse(all.start) && shown.to >= Date.parse(all.end)) return ''
    return [shown.from, shown.to].map((at) => new Date(at).toISOString()).join('/')
  }),
  400,
)
watch(zoomed, (named) => {
  if (named !== undefined && named !== read('view')) void change({ view: named }, { replace: true })
})

type Panel = 'proposals' | 'forecast' | 'readings'
const panels: { panel: Panel; words: string }[] = [
  { panel: 'proposals', words: 'Propose setpoints' },
  { panel: 'forecast', words: 'Forecast' },
  { panel: 'readings', words: 'Readings' },
]
const panel = computed(() => panels.find((one) => one.panel === read('panel'))?.panel)
const isNumber = computed(() => meter.data.value?.kind !== 'grade')
const offered = computed(() =>
  panels.filter(
    (one) =>
      one.panel === 'readings' ||
      (one.panel === 'forecast' ? isNumber.value : meter.data.value?.kind === 'measurement'),
  ),
)
const proposals = ref<Proposal[]>([])
const forecast = ref<ForecastView>()
const proposer = useTemplateRef<InstanceType<typeof ProposalsPanel>>('proposer')
/** The axis goes on to the last rung that is reached, but not beyond as long again as the period. */
const ahead = computed(() => {
  if (panel.value !== 'forecast' || !whole.data.value) return undefined
  const { start, end } = whole.data.value.span
  const [from, until] = [Date.parse(start), Date.parse(end)]
  const last = Math.max(until, ...(forecast.value?.reached ?? []).map((one) => Date.parse(one.at)))
  return Math.min(until + (until - from), last + (until - from) * 0.08)
})
watch(ahead, (to, before) => {
  const end = Date.parse(whole.data.value?.span.end ?? '')
  if (!view.value || view.value.to < Math.min(before ?? end, end)) return
  view.value = { from: view.value.from, to: to ?? end }
})
const shelving = ref(false)
const unshelve = useChange(takeOff)

const { replay, last: verdict, error: unplayed } = useReplay(() => props.meter, draft, period, view)
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
            <template v-if="meter.data.value.measuring_point"
              >{{ meter.data.value.measuring_point }} · </template
            >{{ meter.data.value.code }} · {{ wholeNumber(meter.data.value.readings) }} readings
          </span>
        </p>
      </div>
      <div class="tools">
        <ElButton @click="entering = !entering">Enter a reading</ElButton>
        <ElButton v-if="!meter.data.value.shelf" @click="shelving = !shelving">Shelve</ElButton>
        <RouterLink :to="to('/setup/files/readings')" class="press">Import readings</RouterLink>
      </div>
    </div>
    <ReadingForm v-if="entering" :meter="meter.data.value" @close="entering = false" />
    <ShelfForm v-if="shelving" :meter="props.meter" @close="shelving = false" />
    <p v-if="meter.data.value.shelf" class="shelf" role="status" data-test="shelf-note">
      Its alarms are held back until <strong>{{ dateTime(meter.data.value.shelf.until) }}</strong> by
      {{ meter.data.value.shelf.by }}: {{ meter.data.value.shelf.reason }}
      <button class="act" @click="unshelve.mutate(meter.data.value!.code)">Take off the shelf</button>
    </p>
    <ProblemNote :error="unshelve.error.value" />
    <div class="sides">
      <div>
        <TrendChart
          v-if="whole.data.value && ladder.data.value && view"
          v-model="draft"
          v-model:view="view"
          :meter="meter.data.value"
          :span="whole.data.value.span"
          :saved="ladder.data.value"
          :replay="replay"
          :proposals="panel === 'proposals' ? proposals : undefined"
          :forecast="panel === 'forecast' ? forecast : undefined"
          :ahead="ahead"
          @take="proposer?.take($event)"
        />
        <PanelButtons :panels="offered" />
        <ProposalsPanel
          v-if="panel === 'proposals' && view"
          ref="proposer"
          v-model="draft"
          v-model:drawn="proposals"
          :of="{ meter: props.meter }"
          :meter="meter.data.value"
          :view="view"
          hint="zoom the trend to choose another stretch"
        />
        <ForecastPanel
          v-if="panel === 'forecast' && view"
          v-model:drawn="forecast"
          :meter="meter.data.value"
          :view="view"
          :ladder="draft"
        />
        <ReadingList v-if="panel === 'readings'" :meter="meter.data.value" />
        <ReplayVerdict
          v-model="draft"
          :meter="meter.data.value"
          :replay="verdict"
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
        :newer="newer"
        :based-on="basedOn()"
        :after-save="edited.afterSave"
        @reset="takeTheirs"
        @keep="keepMine"
      />
    </div>
  </template>
</template>

<style scoped>
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

.tools > .el-button {
  margin-left: 0;
}

.shelf {
  margin: 0 0 12px;
  padding: 8px 12px;
  background: var(--paper-2);
}

.shelf .act {
  margin-left: 12px;
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
