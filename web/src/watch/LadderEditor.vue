<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { answer, api, type Ladder, type LadderView, type MeterDetail, Problem } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'
import ProposedVersion from './ProposedVersion.vue'
import RungFields from './RungFields.vue'
import VersionList from './VersionList.vue'

const props = defineProps<{
  meter: MeterDetail
  saved: LadderView
  changed: boolean
}>()
const emit = defineEmits<{ reset: [] }>()
const draft = defineModel<Ladder>({ required: true })

const client = useQueryClient()
const reason = ref('')

const suspending = computed({
  get: () => draft.value.suspended_while?.meter ?? '',
  set: (code) =>
    (draft.value.suspended_while = code
      ? { meter: code, below: draft.value.suspended_while?.below ?? 1 }
      : undefined),
})
const {
  mutate,
  error,
  isPending,
  reset: forget,
} = useMutation({
  mutationFn: () =>
    answer(
      api.PUT('/api/v1/meters/{code}/ladder', {
        params: { path: { code: props.meter.code } },
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
    return client.invalidateQueries()
  },
})
const problem = computed(() => (error.value instanceof Problem ? error.value : undefined))

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
    <details class="whole">
      <summary class="quiet small">More about these limits</summary>
      <label class="field">
        That interval is
        <select v-model="draft.raise_interval_of" class="line" name="interval-of">
          <option value="ladder">of these limits</option>
          <option value="asset">of all limits on the asset</option>
        </select>
      </label>
      <label class="check"
        ><input v-model="draft.separate_work" type="checkbox" name="separate" /> raise separate work instead
        of joining what is open</label
      >
      <label class="field">
        Suspended while another meter
        <input v-model.lazy="suspending" class="line" name="suspended" placeholder="code, or empty" />
        <span v-if="problem?.of('suspended_while.meter')" class="wrong" role="alert">{{
          problem.of('suspended_while.meter')
        }}</span>
      </label>
      <label v-if="draft.suspended_while" class="field">
        is below
        <input
          v-model.number="draft.suspended_while.below"
          class="line"
          type="number"
          step="any"
          name="suspended-below"
        />
      </label>
    </details>
    <ProposedVersion v-if="saved.proposed" :meter="meter.code" :proposed="saved.proposed" />
    <div v-if="changed || problem" class="save">
      <label class="field">
        Reason for the change
        <input
          v-model="reason"
          class="line"
          name="reason"
          placeholder="What made you change them?"
          :aria-invalid="problem?.of('reason') !== undefined"
        />
        <span v-if="problem?.of('reason')" class="wrong" role="alert">{{ problem.of('reason') }}</span>
      </label>
      <ProblemNote
        :error="error"
        :shown="[
          'reason',
          'suspended_while.meter',
          ...(problem?.fields ?? []).map((f) => f.field).filter((f) => f.startsWith('rungs[')),
        ]"
      />
      <div class="buttons">
        <ElButton type="primary" native-type="submit" :loading="isPending"
          >Save as version {{ saved.number + 1 }}</ElButton
        >
        <button type="button" class="act" @click="takeBack">Take back</button>
      </div>
    </div>
    <VersionList v-if="saved.versions.length" :meter="meter.code" :versions="saved.versions" />
  </form>
</template>

<style scoped>
.save {
  margin-top: 14px;
  padding: 12px;
  background: var(--paper-2);
  display: grid;
  gap: 8px;
}

.buttons {
  display: flex;
  gap: 16px;
}

.whole {
  margin-top: 10px;
}

.whole .field,
.check {
  margin-top: 8px;
}

.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 14px;
}
</style>
