<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { reactive } from 'vue'
import { useRouter } from 'vue-router'
import { type WorkKind } from '../common/api'
import { kindWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import AssetField from '../common/fields/AssetField.vue'
import { useChange } from '../common/change/useChange'
import { raiseWork } from './changes'

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
})
const { mutate, error, problem, isPending } = useChange(raiseWork, async (raised) => {
  emit('close')
  await router.push(to(`/work/${raised.number}`))
})
const raised = () => ({
  title: given.title,
  text: given.text,
  asset: given.asset.trim(),
  kind: given.kind,
  risk_rank: given.risk_rank,
  estimated_hours: given.hours ?? undefined,
})
</script>

<template>
  <ElDialog :model-value="true" title="Raise work" width="560" @close="emit('close')">
    <form id="raise" @submit.prevent="mutate(raised)">
      <TextField
        v-model="given.title"
        label="What is to be done"
        name="work-title"
        :wrong="problem?.of('title')"
      />
      <AssetField v-model="given.asset" :wrong="problem?.of('asset')" />
      <div class="row">
        <ChoiceField v-model="given.kind" label="Kind" name="work-kind">
          <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
        </ChoiceField>
        <ChoiceField v-model="given.risk_rank" label="Risk rank" name="work-rank">
          <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
        </ChoiceField>
        <NumberField v-model="given.hours" label="Hours, estimated" name="work-hours" />
      </div>
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
