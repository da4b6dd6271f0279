<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { type WorkKind } from '../common/api'
import { kindWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import JobSheetField from '../common/fields/JobSheetField.vue'
import AssetField from '../common/fields/AssetField.vue'
import { useChange } from '../common/change/useChange'
import AlreadyRaised from './AlreadyRaised.vue'
import { joinWork, raiseWork } from './changes'

const emit = defineEmits<{ close: [] }>()
const { scope, to } = useAddress()
const router = useRouter()
const given = reactive({
  title: '',
  text: '',
  asset: scope.value,
  kind: 'corrective_deferred' as WorkKind,
  risk_rank: 3,
  hours: undefined as number | undefined,
  job_sheet: '',
})
const linked = ref<number[]>([])
async function open(number: number) {
  emit('close')
  await router.push(to(`/work/${number}`))
}
const raise = useChange(raiseWork, (raised) => open(raised.number))
let joined = 0
const join = useChange(joinWork, () => open(joined))
const error = computed(() => raise.error.value ?? join.error.value)
const isPending = computed(() => raise.isPending.value || join.isPending.value)
const wrong = (field: string) => raise.problem.value?.of(field)

const raised = () => ({
  title: given.title,
  text: given.text,
  asset: given.asset.trim(),
  kind: given.kind,
  risk_rank: given.risk_rank,
  estimated_hours: given.hours ?? undefined,
  job_sheet: given.job_sheet || undefined,
  linked: linked.value,
})
/** What was typed goes to the order that is about the same. */
function joinTo(number: number) {
  joined = number
  raise.reset()
  const words = [given.title, given.text].map((text) => text.trim()).filter(Boolean)
  join.mutate({ number, words: words.join('\n') })
}
function send() {
  join.reset()
  raise.mutate(raised)
}
</script>

<template>
  <ElDialog :model-value="true" title="Raise work" width="620" @close="emit('close')">
    <form id="raise" @submit.prevent="send">
      <AssetField v-model="given.asset" :wrong="wrong('asset')" />
      <TextField
        v-model="given.title"
        label="What is to be done, or what you see"
        name="work-title"
        :wrong="wrong('title') ?? join.problem.value?.of('words')"
      />
      <AlreadyRaised
        v-model:linked="linked"
        :asset="given.asset"
        :title="given.title"
        :busy="isPending"
        @join="joinTo"
      />
      <div class="row">
        <ChoiceField v-model="given.kind" label="Kind" name="work-kind">
          <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
        </ChoiceField>
        <ChoiceField v-model="given.risk_rank" label="Risk rank" name="work-rank">
          <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
        </ChoiceField>
        <NumberField v-model="given.hours" label="Hours, estimated" name="work-hours" />
      </div>
      <JobSheetField v-model="given.job_sheet" :wrong="wrong('job_sheet')" />
      <TextField v-model="given.text" label="What else to know" long name="work-text" />
      <ProblemNote :error="error" />
    </form>
    <template #footer>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton type="primary" native-type="submit" form="raise" :loading="isPending" data-test="raise"
        >Raise work</ElButton
      >
    </template>
  </ElDialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
}

.row {
  display: grid;
  grid-template-columns: 1fr 90px 130px;
  gap: 12px;
}
</style>
