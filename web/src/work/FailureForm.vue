<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { codebook, codebooks } from '../common/queries/codes'
import { useQuery } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { type WorkDetail } from '../common/api'
import AssetField from '../common/fields/AssetField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { reportFailure } from './changes'
import CodeChoice from './CodeChoice.vue'

const props = defineProps<{
  work: WorkDetail
  /** The report that is changed; a new one without it. */
  failure?: WorkDetail['failures'][number]
}>()
const emit = defineEmits<{ close: [] }>()

const { work, failure } = props
const given = reactive({
  asset: failure?.asset.code ?? (work.failures.length ? '' : work.asset.code),
  codebook: failure?.codebook ?? work.codebook ?? '',
  problem: failure?.problem?.code ?? '',
  cause: failure?.cause?.code ?? '',
  remedy: failure?.remedy?.code ?? '',
  failed_at: failure?.failed_at ?? work.raised_at,
  noticed: failure?.noticed ?? (work.why ? 'condition_monitoring' : 'operation'),
  effect: failure?.effect ?? (work.why ? 'incipient' : 'critical'),
  reason: '',
})
const books = useQuery(codebooks())
const book = useQuery(() => ({ ...codebook(given.codebook), enabled: given.codebook !== '' }))

const { mutate, error, problem, isPending } = useChange(reportFailure, () => emit('close'))
const report = () => ({
  number: work.number,
  body: {
    id: failure?.id,
    asset: given.asset || undefined,
    codebook: given.codebook || undefined,
    problem: given.problem || undefined,
    cause: given.cause || undefined,
    remedy: given.remedy || undefined,
    failed_at: given.failed_at,
    noticed: given.noticed,
    effect: given.effect,
    reason: given.reason,
  },
})
</script>

<template>
  <form @submit.prevent="mutate(report)" @keydown.esc.stop="emit('close')">
    <div class="row">
      <AssetField v-model="given.asset" label="What failed" :wrong="problem?.of('asset')" />
      <ChoiceField v-if="!work.codebook || failure" v-model="given.codebook" label="Codebook" name="codebook">
        <option v-for="one in books.data.value" :key="one.code" :value="one.code">{{ one.name }}</option>
      </ChoiceField>
    </div>
    <CodeChoice
      v-if="book.data.value"
      v-model:problem="given.problem"
      v-model:cause="given.cause"
      v-model:remedy="given.remedy"
      :book="book.data.value"
    />
    <div class="row">
      <InstantField v-model="given.failed_at" label="Failed at" name="failed-at" />
      <ChoiceField v-model="given.effect" label="Effect" name="effect">
        <option value="critical">critical: its job stopped</option>
        <option value="degraded">degraded: its job went on, worse</option>
        <option value="incipient">incipient: not touched yet</option>
      </ChoiceField>
      <ChoiceField v-model="given.noticed" label="Noticed" name="noticed">
        <option value="operation">in operation</option>
        <option value="inspection">at an inspection</option>
        <option value="condition_monitoring">by a meter</option>
        <option value="maintenance">during other work</option>
        <option value="chance">by chance</option>
      </ChoiceField>
      <TextField
        v-if="work.is_over"
        v-model="given.reason"
        class="wide"
        label="Why it is corrected"
        name="failure-reason"
        needed
        :wrong="problem?.of('reason')"
      />
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-failure"
        >Keep the report</ElButton
      >
    </div>
    <ProblemNote :error="error" />
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
  padding: 12px;
  margin-top: 8px;
  background: var(--paper-2);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
}
</style>
