<script setup lang="ts">
import { familyTrial } from './queries/tried'
import { useChange } from '../common/change/useChange'
import { approveFamily, setFamily, turnDownFamily } from './changes'
import { severities } from '../generated/words'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { period as periodNamed } from '../common/queries/plant'
import { family } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { type FamilyReceipt, type Ladder, type MeterDetail, Problem, type Proposal } from '../common/api'
import { count, date } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import NewerNote from '../common/draft/NewerNote.vue'
import { useAddress } from '../common/useAddress'
import { useDraft } from '../common/draft/useDraft'
import ChangeLines from '../common/approval/ChangeLines.vue'
import FamilyForecast from './FamilyForecast.vue'
import FamilyReplay from './FamilyReplay.vue'
import PanelButtons from './PanelButtons.vue'
import ProposalsPanel from './ProposalsPanel.vue'
import ProposedVersion from '../common/approval/ProposedVersion.vue'
import LadderRules from './LadderRules.vue'
import RungFields from './RungFields.vue'
import SaveVersion from './SaveVersion.vue'
import WatchNav from './WatchNav.vue'
import { emptyLadder, ladderOf, sameLadder, shownBeside } from './ladder'

const props = defineProps<{
  /** Code of the equipment class. */
  equipmentClass: string
  /** That the family's meters share. */
  name: string
}>()
const { period, read, to } = useAddress()
const path = computed(() => ({ path: { class: props.equipmentClass, name: props.name } }))
const { data, error } = useQuery(() => family(props.equipmentClass, props.name))
const edited = useDraft<NonNullable<typeof data.value>, Ladder>({
  theirs: () => data.value,
  of: (view) => `${view.class_name}/${view.name}`,
  version: (view) => view.number,
  draftOf: (view) => ladderOf(view.ladder ?? emptyLadder()),
  same: (mine, view) => sameLadder(mine, view.ladder ?? emptyLadder()),
  name: () => `the limits of ${data.value?.class_name}: ${props.name}`,
})
const { changed, newer } = edited
const draft = computed({
  get: () => edited.draft.value ?? emptyLadder(),
  set: (ladder) => (edited.draft.value = ladder),
})
/** What a rung's form needs to know of a meter, of the family as a whole. */
const like = computed(
  () =>
    ({
      kind: data.value?.kind,
      unit: data.value?.unit,
      grades: data.value?.grades ?? [],
    }) as MeterDetail,
)
const tools = [
  { panel: 'proposals', words: 'Propose setpoints' },
  { panel: 'forecast', words: 'Forecast' },
]
const whole = useQuery(() => periodNamed(period.value))
const window = computed(() => {
  const span = whole.data.value?.span
  return span && { from: Date.parse(span.start), to: Date.parse(span.end) }
})
const drawn = ref<Proposal[]>([])

/** Codes of deviating meters that are to have the family's limits too. */
const also = ref(new Set<string>())
function take(code: string) {
  if (!also.value.delete(code)) also.value.add(code)
}
function takeBack() {
  edited.takeTheirs()
  also.value.clear()
  forget()
}
function goOn() {
  forget()
  edited.keepMine()
}
const reason = ref('')
const limits = () => ({
  family: path.value.path,
  body: { reason: reason.value, ladder: draft.value, also: [...also.value] },
})
const pending = computed(() => Boolean(changed.value) || also.value.size > 0)
/** The trial run follows what is typed: it shows on which meters what would change. */
const typed = refDebounced(
  computed(() => JSON.stringify(limits().body)),
  250,
)
const trial = useQuery(() => ({
  ...familyTrial(path.value.path, {
    ...(JSON.parse(typed.value) as ReturnType<typeof limits>['body']),
    reason: 'trial run',
  }),
  enabled: pending.value,
  retry: false,
  placeholderData: keepPreviousData,
}))
const rows = computed(() => {
  const fates = new Map((pending.value ? trial.data.value?.rows : undefined)?.map((row) => [row.meter, row]))
  return (data.value?.meters ?? []).map((meter) => ({ meter, fate: fates.get(meter.meter) }))
})
const sums = computed(() => {
  const receipt: FamilyReceipt | undefined = trial.data.value
  if (!receipt || !pending.value) return undefined
  const of = (fate: string) => receipt.rows.filter((row) => row.fate === fate).length
  return {
    changed: of('changed') + of('proposed'),
    keeps: of('keeps_its_own'),
    refused: of('refused'),
    ended: receipt.rows.reduce((sum, row) => sum + row.ended_alarms, 0),
    alarms: receipt.rows.reduce((sum, row) => sum + row.alarms, 0),
    work: receipt.rows.reduce((sum, row) => sum + row.work_orders.length, 0),
  }
})
const fateWords = {
  changed: 'gets them',
  proposed: 'proposed to a second engineer',
  unchanged: 'has just these',
  keeps_its_own: 'keeps its own',
  refused: 'can’t have them',
}
const {
  mutate: save,
  error: unsaved,
  isPending,
  reset: forget,
} = useChange(setFamily, (receipt, readAgain) => {
  reason.value = ''
  also.value.clear()
  return receipt.pending ? undefined : edited.afterSave(readAgain)
})
const problem = computed(() => {
  const wrong = unsaved.value ?? trial.error.value
  if (!(wrong instanceof Problem)) return undefined
  const bare = wrong.fields.map(({ field, reason }) => ({ field: field.replace(/^ladder\./, ''), reason }))
  return new Problem(wrong.status, wrong.message, bare)
})
const shown = computed(() => shownBeside(problem.value))

type FamilyRow = (typeof rows.value)[number]
const columns = computed<LedgerColumn<FamilyRow>[]>(() => [
  { key: 'meter', name: 'Meter', by: ({ meter }) => meter.asset.name, lead: true },
  {
    key: 'stands',
    name: 'Stands at',
    by: ({ meter }) => meter.worst_severity && severities.indexOf(meter.worst_severity),
  },
  {
    key: 'fate',
    name: pending.value ? 'What would become of it' : 'Against the family’s limits',
    by: ({ meter, fate }) => (fate ? fateWords[fate.fate] : meter.deviates ? 'deviates' : ''),
  },
])
</script>

<template>
  <WatchNav />
  <ProblemNote :error="error" />
  <template v-if="data">
    <p class="crumb"><RouterLink :to="to('/families')">Families</RouterLink></p>
    <h1>{{ data.class_name }}: {{ data.name }}, {{ count(data.meters.length, 'meter', 'meters') }}</h1>
    <p class="quiet">
      <template v-if="data.number">
        Version {{ data.number }}, {{ data.by }}, {{ date(data.at!) }}: {{ data.reason }}
      </template>
      <template v-else>No limits are written for the family yet; its meters may have their own.</template>
    </p>
    <ProposedVersion
      v-if="data.proposed"
      :proposed="data.proposed"
      :approve="approveFamily"
      :turn-down="turnDownFamily"
      :of="path.path"
    />
    <div class="sides">
      <div>
        <p v-if="sums" class="verdict" data-test="family-preview">
          {{ sums.changed }} of {{ rows.length }} meters would change, {{ sums.keeps }}
          {{ sums.keeps === 1 ? 'keeps its own' : 'keep their own'
          }}<template v-if="sums.refused">, {{ sums.refused }} can’t have them</template>; {{ sums.ended }}
          {{ sums.ended === 1 ? 'alarm' : 'alarms' }} would end, {{ sums.alarms }} begin and
          {{ sums.work }} work {{ sums.work === 1 ? 'order' : 'orders' }} be raised at once<template
            v-if="trial.data.value?.pending"
            >, once a second engineer approves</template
          >.
        </p>
        <FamilyReplay
          v-if="draft.rungs.length"
          v-model="draft"
          :equipment-class="equipmentClass"
          :name="name"
          :unit="data.unit"
        />
        <PanelButtons :panels="tools" />
        <ProposalsPanel
          v-if="read('panel') === 'proposals' && window"
          v-model="draft"
          v-model:drawn="drawn"
          :of="{ family: path.path }"
          :meter="like"
          :view="window"
          hint="all meters’ readings together; choose another period at the top"
        />
        <FamilyForecast
          v-if="read('panel') === 'forecast'"
          :equipment-class="equipmentClass"
          :name="name"
          :unit="data.unit"
          :ladder="draft"
        />
        <LedgerTable
          :columns="columns"
          :rows="rows"
          :key-of="({ meter }) => meter.meter"
          label="Meters of the family"
          test="family-meter"
        >
          <template #meter="{ row: { meter } }">
            <RouterLink :to="to(`/watch/${meter.meter}`)" data-row>{{ meter.asset.name }}</RouterLink>
            <span class="quiet small"> {{ meter.meter }}</span>
          </template>
          <template #stands="{ row: { meter } }"
            ><SeverityStrokes :severity="meter.worst_severity" word
          /></template>
          <template #fate="{ row: { meter, fate } }">
            <template v-if="fate">
              <strong>{{ fateWords[fate.fate] }}</strong>
              <span v-if="fate.reason" class="wrong"> {{ fate.reason }}</span>
              <span v-if="fate.work_orders.length"> and raises work at once</span>
              <ChangeLines
                v-if="fate.fate === 'changed' && rows.length <= 12"
                :changes="fate.changes"
                class="small"
              />
              <details v-else-if="fate.changes.length" class="small">
                <summary>{{ count(fate.changes.length, 'difference', 'differences') }}</summary>
                <ChangeLines :changes="fate.changes" />
              </details>
            </template>
            <template v-else-if="meter.deviates">
              <strong>deviates</strong>
              <details class="small">
                <summary>{{ count(meter.changes.length, 'difference', 'differences') }}</summary>
                <ChangeLines :changes="meter.changes" />
              </details>
            </template>
            <span v-else-if="!meter.has_ladder" class="quiet">has no limits</span>
            <span v-else-if="data.number" class="quiet">as the family</span>
            <span v-else class="quiet">has its own</span>
            <button
              v-if="meter.has_ladder && (meter.deviates || !data.number)"
              class="act small"
              :aria-pressed="also.has(meter.meter)"
              @click="take(meter.meter)"
            >
              {{ also.has(meter.meter) ? 'Let it keep its own' : 'Give it the family’s' }}
            </button>
          </template>
        </LedgerTable>
      </div>
      <form class="ladder" aria-label="The family’s limits" @submit.prevent="save(limits, edited.basedOn())">
        <h2>The family’s limits</h2>
        <p v-if="!draft.rungs.length" class="quiet">Add a rung, and type where it stands.</p>
        <RungFields v-model="draft" :meter="like" :problem="problem" />
        <LadderRules v-model="draft" :problem="problem" />
        <p class="quiet small">
          In titles and texts, {asset}, {meter}, {reading} and {limit} stand for each meter’s.
        </p>
        <NewerNote
          v-if="newer"
          :words="`version ${newer.number} by ${newer.by}: ${newer.reason}`"
          @theirs="takeBack"
          @mine="goOn"
        />
        <SaveVersion
          v-if="pending"
          v-model="reason"
          :error="problem ?? unsaved ?? trial.error.value"
          :shown="shown"
          :saving="isPending"
          @take-back="takeBack"
        >
          Write for {{ count(sums?.changed ?? 0, 'meter', 'meters') }}
        </SaveVersion>
      </form>
    </div>
  </template>
</template>

<style scoped>
.crumb {
  margin: 0 0 2px;
  font-size: 13.5px;
}

.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 336px;
  gap: 28px;
  margin-top: 12px;
}

td .act {
  display: block;
  padding: 0;
}

@media (max-width: 1000px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
