<script setup lang="ts">
import { reactive } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type WorkKind } from '../common/api'
import { kindWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import AssetField from '../common/fields/AssetField.vue'
import { useChange } from '../common/change/useChange'

const emit = defineEmits<{ close: [] }>()
const { scope, to } = useAddress()
const router = useRouter()
const given = reactive({
  title: '',
  text: '',
  asset: scope.value,
  kind: 'corrective_deferred' as WorkKind,
  risk_rank: 3,
  hours: '',
})
/** A number as it is typed, with a point or a comma; what is none goes as it is, for the server to say so. */
function hoursGiven(text: string): number | undefined {
  if (!text.trim()) return undefined
  const hours = Number(text.trim().replace(',', '.'))
  return Number.isFinite(hours) ? hours : (text as unknown as number)
}
const { mutate, error, problem, isPending } = useChange(async () => {
  const raised = await answer(
    api.POST('/api/v1/work-orders', {
      body: {
        title: given.title,
        text: given.text,
        asset: given.asset.trim(),
        kind: given.kind,
        risk_rank: given.risk_rank,
        estimated_hours: hoursGiven(given.hours),
      },
    }),
  )
  emit('close')
  await router.push(to(`/work/${raised.number}`))
})
</script>

<template>
  <ElDialog :model-value="true" title="Raise work" width="560" @close="emit('close')">
    <form id="raise" @submit.prevent="mutate()">
      <label class="field">
        What is to be done
        <input
          v-model="given.title"
          class="line"
          name="work-title"
          autofocus
          :aria-invalid="problem?.of('title') !== undefined"
        />
      </label>
      <AssetField v-model="given.asset" :wrong="problem?.of('asset')" />
      <div class="row">
        <label class="field">
          Kind
          <select v-model="given.kind" class="line" name="work-kind">
            <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
          </select>
        </label>
        <label class="field">
          Risk rank
          <select v-model="given.risk_rank" class="line" name="work-rank">
            <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
          </select>
        </label>
        <label class="field"
          >Hours, estimated <input v-model="given.hours" class="line" inputmode="decimal" name="work-hours"
        /></label>
      </div>
      <label class="field"
        >What else to know <textarea v-model="given.text" class="line" name="work-text" />
      </label>
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
