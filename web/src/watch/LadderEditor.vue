<script setup lang="ts">
import { useChange } from '../common/change/useChange'
import { approveLimits, setLimits, turnDownLimits } from './changes'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { type Ladder, type LadderView, type MeterDetail } from '../common/api'
import { dateTime } from '../common/format'
import NewerNote from '../common/draft/NewerNote.vue'
import { shownBeside } from './ladder'
import LadderRules from './LadderRules.vue'
import ProposedVersion from '../common/approval/ProposedVersion.vue'
import RungFields from './RungFields.vue'
import SaveVersion from './SaveVersion.vue'
import VersionList from './VersionList.vue'

const props = defineProps<{
  meter: MeterDetail
  saved: LadderView
  changed: boolean
  /** What a colleague saved since the draft was begun. */
  newer?: LadderView
  /** The version that the draft was begun from. */
  basedOn?: number
  /** Reads again what was saved, for the draft to begin from. */
  afterSave: (readAgain: () => Promise<unknown>) => Promise<void>
}>()
const emit = defineEmits<{ reset: []; keep: [] }>()
const draft = defineModel<Ladder>({ required: true })

const reason = ref('')

const {
  mutate,
  error,
  problem,
  isPending,
  reset: forget,
} = useChange(setLimits, (receipt, readAgain) => {
  reason.value = ''
  if (receipt.pending) {
    ElMessage.success('Proposed: a second engineer approves changes of a danger rung.')
    return undefined
  }
  const work = receipt.work_orders.length ? `, and raised work ${receipt.work_orders.join(', ')}` : ''
  ElMessage.success(`Version ${receipt.number} is live${work}.`)
  return props.afterSave(readAgain)
})
const limits = () => ({ meter: props.meter.code, body: { ...draft.value, reason: reason.value } })
const newest = computed(() => props.newer?.versions[0])
function goOn() {
  forget()
  emit('keep')
}

const shown = computed(() => shownBeside(problem.value))

function takeBack() {
  forget()
  emit('reset')
}
</script>

<template>
  <form class="ladder" aria-label="Limits" @submit.prevent="mutate(limits, basedOn)">
    <h2>Limits</h2>
    <p v-if="!draft.rungs.length" class="quiet">
      No limits are set. Add a rung, then drag it on the trend or type its setpoint.
    </p>
    <RungFields v-model="draft" :meter="meter" :problem="problem" />
    <LadderRules v-model="draft" :problem="problem" />
    <ProposedVersion
      v-if="saved.proposed"
      :proposed="saved.proposed"
      :approve="approveLimits"
      :turn-down="turnDownLimits"
      :of="meter.code"
    />
    <NewerNote
      v-if="newest"
      :words="`version ${newest.number} by ${newest.author}, ${dateTime(newest.starts_at)}: ${newest.reason}`"
      @theirs="takeBack"
      @mine="goOn"
    />
    <SaveVersion
      v-if="changed || problem"
      v-model="reason"
      :error="error"
      :shown="shown"
      :saving="isPending"
      @take-back="takeBack"
    >
      Save as version {{ saved.number + 1 }}
    </SaveVersion>
    <VersionList v-if="saved.versions.length" :meter="meter.code" :versions="saved.versions" />
  </form>
</template>
