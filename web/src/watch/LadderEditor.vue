<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import {
  answer,
  api,
  type Ladder,
  type LadderView,
  type MeterDetail,
  Problem,
  type Rung,
} from '../common/api'
import { severities, unit } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { newRung, nextSeverity } from './ladder'
import ProposedVersion from './ProposedVersion.vue'
import RungForm from './RungForm.vue'
import VersionList from './VersionList.vue'

const props = defineProps<{
  meter: MeterDetail
  saved: LadderView
  changed: boolean
}>()
const emit = defineEmits<{ reset: [] }>()
const draft = defineModel<Ladder>({ required: true })

const DAY = 86_400
const client = useQueryClient()
const reason = ref('')
const sides = computed<Rung['side'][]>(() => (props.meter.kind === 'grade' ? ['grade'] : ['high', 'low']))
const titles = { high: 'High side', low: 'Low side', grade: 'Named values' }

/** Rungs of a side, the worst at the top of the high side and at the foot of the low side, with their place. */
function rungsOf(side: Rung['side']) {
  const direction = side === 'low' ? 1 : -1
  return draft.value.rungs
    .map((rung, place) => ({ rung, place }))
    .filter(({ rung }) => rung.side === side)
    .sort((a, b) => direction * (severities.indexOf(a.rung.severity) - severities.indexOf(b.rung.severity)))
}

function add(side: Rung['side']) {
  const severity = nextSeverity(draft.value, side)
  if (severity) draft.value.rungs.push(newRung(draft.value, side, severity, props.meter))
}

const intervalDays = computed({
  get: () => String((draft.value.raise_interval_seconds ?? 0) / DAY),
  set: (days) => (draft.value.raise_interval_seconds = Math.round(Number(days) * DAY)),
})

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
    <fieldset v-for="side in sides" :key="side">
      <legend>
        {{ titles[side] }} <span v-if="unit(meter.unit)" class="quiet small">in {{ unit(meter.unit) }}</span>
        <button v-if="nextSeverity(draft, side)" type="button" class="act" @click="add(side)">
          Add a {{ side }} rung
        </button>
      </legend>
      <RungForm
        v-for="{ place } in rungsOf(side)"
        :key="place"
        v-model="draft.rungs[place]!"
        :meter="meter"
        :place="place"
        :problem="problem"
        @remove="draft.rungs.splice(place, 1)"
      />
    </fieldset>
    <label class="field interval">
      Days after raising work in which these limits raise no other
      <input v-model="intervalDays" class="line" type="number" min="0" step="any" name="interval" />
    </label>
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
fieldset {
  border: 0;
  margin: 12px 0 0;
  padding: 0;
  min-width: 0;
}

legend {
  display: flex;
  width: 100%;
  gap: 6px;
  align-items: baseline;
  padding: 0 0 3px;
  font-weight: 600;
  border-bottom: 1.5px solid var(--ink);
}

legend .act {
  margin-left: auto;
  padding: 0;
  font-size: 13.5px;
}

.interval {
  grid-template-columns: 1fr 76px;
  align-items: center;
  margin-top: 14px;
}

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
