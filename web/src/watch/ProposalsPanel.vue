<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, toRef, watch } from 'vue'
import type { Ladder, MachineGroup, MeterDetail, Proposal } from '../common/api'
import { whole, date, plain, unit } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import type { View } from '../common/chart/geometry'
import { editedRung, moveRung, onValue, rungName } from './ladder'
import { type Subject, proposals } from './queries/tried'
import { machineWords, methodWords, pWords } from './methods'

const props = defineProps<{
  /** Whose baseline it is. */
  of: Subject
  meter: MeterDetail
  /** The baseline window. */
  view: View
  /** How another window is chosen. */
  hint: string
}>()
const draft = defineModel<Ladder>({ required: true })
/** What is drawn on the trend. */
const drawn = defineModel<Proposal[]>('drawn', { required: true })

const k = ref('3')
const machine = ref<MachineGroup | ''>('')
const side = ref<'high' | 'low'>('high')
const asked = refDebounced(
  toRef(() => ({ ...props.view, k: Number(k.value), machine: machine.value })),
  150,
)
const { data, error } = useQuery(() => ({
  ...proposals(props.of, {
    from: new Date(asked.value.from).toISOString(),
    to: new Date(asked.value.to).toISOString(),
    k: asked.value.k > 0 ? asked.value.k : undefined,
    machine: asked.value.machine || undefined,
  }),
  placeholderData: keepPreviousData,
}))
const shown = computed(() => (data.value?.proposals ?? []).filter((one) => one.side === side.value))
watch(shown, (proposals) => (drawn.value = proposals), { immediate: true })

/** The rung that takes a proposal. */
const rungs = computed(() =>
  draft.value.rungs
    .map((rung, place) => ({ rung, place }))
    .filter(({ rung }) => rung.side === side.value && onValue(rung)),
)
const target = ref<number | ''>('')
watch(rungs, (list) => {
  if (!list.some(({ place }) => place === target.value)) target.value = list[0]?.place ?? ''
})
target.value = rungs.value[0]?.place ?? ''

const { mutate: add, error: notAdded } = useMutation({
  mutationFn: ({ side, severity, offered }: Proposal) =>
    editedRung(draft.value, { edit: 'add', side, severity, setpoint: offered }, props.meter.last?.value),
  onSuccess: (rung) => void draft.value.rungs.push(rung),
})
function take(proposal: Proposal) {
  const named = rungs.value.find(({ rung }) => rung.severity === proposal.severity)
  const place = named?.place ?? (proposal.severity ? '' : target.value)
  const rung = place === '' ? undefined : draft.value.rungs[place]
  if (rung) moveRung(rung, proposal.offered)
  else add(proposal)
}
defineExpose({ take })

const warnings = computed(() =>
  (data.value?.warnings ?? []).map((warning) => {
    if (warning.kind === 'few') return `Only ${warning.n} readings: too few to trust.`
    if (warning.kind === 'failures')
      return `${warning.failures} ${warning.failures === 1 ? 'failure' : 'failures'} in the window: it is not a sound baseline.`
    return `The series ${warning.rises ? 'rises' : 'falls'} in the window (Mann–Kendall, ${pWords(warning.p)}): a baseline should be level.`
  }),
)
const inputs = (proposal: Proposal) =>
  proposal.inputs.map((input) => `${input.name} ${plain(input.value)}`).join(', ')

const keyOf = (row: Proposal) => `${row.method} ${row.side} ${row.severity ?? ''} ${row.formula}`
const columns = computed<LedgerColumn<Proposal>[]>(() => [
  { key: 'method', name: 'Method', by: (row) => methodWords[row.method], lead: true },
  { key: 'setpoint', name: unit(props.meter.unit) || 'Setpoint', by: (row) => row.setpoint, num: true },
  { key: 'n', name: 'n', text: (row) => whole(row.n), by: (row) => row.n, num: true },
  { key: 'formula', name: 'Formula and source', by: null },
  { key: 'do', name: 'Take', unseen: true, num: true, screenOnly: true },
])
</script>

<template>
  <section aria-label="Proposals" data-test="proposals">
    <h2 class="ruled">
      Proposed from a baseline
      <span class="quiet small"> {{ date(view.from) }} – {{ date(view.to) }}; {{ hint }} </span>
    </h2>
    <p class="choices">
      <label>
        Side
        <select v-model="side" class="line" name="side">
          <option value="high">high</option>
          <option value="low">low</option>
        </select>
      </label>
      <label>k <input v-model="k" class="line k" type="number" min="0.5" step="0.5" name="k" /></label>
      <label v-if="meter.unit === 'mm/s'">
        Machine
        <select v-model="machine" class="line" name="machine">
          <option value="">not said</option>
          <option v-for="(words, group) in machineWords" :key="group" :value="group">{{ words }}</option>
        </select>
      </label>
      <label v-if="rungs.length">
        Taken by
        <select v-model="target" class="line" name="target">
          <option v-for="{ rung, place } in rungs" :key="place" :value="place">{{ rungName(rung) }}</option>
          <option value="">a new rung</option>
        </select>
      </label>
    </p>
    <ProblemNote :error="error ?? notAdded" />
    <p v-for="warning in warnings" :key="warning" class="warning" role="status">{{ warning }}</p>
    <LedgerTable
      v-if="shown.length"
      :columns="columns"
      :rows="shown"
      :key-of="keyOf"
      label="Proposals"
      test="proposal"
    >
      <template #method="{ row }">
        {{ methodWords[row.method] }}
        <span v-if="row.severity" class="quiet">{{ row.severity }}</span>
      </template>
      <template #setpoint="{ row }"
        ><strong>{{ plain(row.setpoint) }}</strong></template
      >
      <template #formula="{ row }">
        {{ row.formula }}
        <span class="quiet small">{{ inputs(row) }}. {{ row.source }}.</span>
      </template>
      <template #do="{ row }">
        <button class="act" :data-test="`take-${row.method}`" @click="take(row)">Take</button>
      </template>
    </LedgerTable>
    <p v-else-if="data" class="quiet">Too few readings in the stretch shown to propose anything.</p>
  </section>
</template>

<style scoped>
section {
  margin: 16px 0 20px;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  margin: 8px 0;
}

.choices label {
  white-space: nowrap;
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 14px;
  color: var(--ink-2);
}

.choices .line {
  min-height: 28px;
  padding: 1px 5px;
  font-size: 14px;
}

.k {
  width: 62px;
}

.warning {
  margin: 4px 0;
  color: var(--worse);
  font-weight: 600;
}
</style>
