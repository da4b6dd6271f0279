<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { answer, api, type Ladder, type LadderView, type MeterDetail, Problem } from '../common/api'
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

const client = useQueryClient()
const reason = ref('')

const {
  mutate,
  error,
  isPending,
  reset: forget,
} = useMutation({
  mutationFn: () =>
    answer(
      api.PUT('/api/v1/meters/{code}/ladder', {
        params: { path: { code: props.meter.code }, query: { based_on: props.basedOn } },
        body: { ...draft.value, reason: reason.value },
      }),
    ),
  onSuccess(receipt) {
    reason.value = ''
    if (receipt.pending) {
      ElMessage.success('Proposed: a second engineer approves changes of a danger rung.')
      return client.invalidateQueries()
    }
    const work = receipt.work_orders.length ? `, and raised work ${receipt.work_orders.join(', ')}` : ''
    ElMessage.success(`Version ${receipt.number} is live${work}.`)
    return props.afterSave(() => client.invalidateQueries())
  },
  // Somebody was first: what they wrote is shown beside the draft.
  onError: (wrong) =>
    wrong instanceof Problem && wrong.status === 409
      ? client.invalidateQueries({ queryKey: ['ladder'] })
      : undefined,
})
const newest = computed(() => props.newer?.versions[0])
function goOn() {
  forget()
  emit('keep')
}
const of = () => ({ params: { path: { code: props.meter.code } } })
const approve = () => answer(api.POST('/api/v1/meters/{code}/ladder/approve', of()))
const turnDown = () => answer(api.DELETE('/api/v1/meters/{code}/ladder/proposed', of()))
const problem = computed(() => (error.value instanceof Problem ? error.value : undefined))

const shown = computed(() => shownBeside(problem.value))

function takeBack() {
  forget()
  emit('reset')
}
</script>

<template>
  <form class="ladder" aria-label="Limits" @submit.prevent="mutate()">
    <h2>Limits</h2>
    <p v-if="!draft.rungs.length" class="quiet">
      No limits are set. Add a rung, then drag it on the trend or type its setpoint.
    </p>
    <RungFields v-model="draft" :meter="meter" :problem="problem" />
    <LadderRules v-model="draft" :problem="problem" />
    <ProposedVersion
      v-if="saved.proposed"
      :proposed="saved.proposed"
      :approve="approve"
      :turn-down="turnDown"
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
