<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { answer, api, type MeterDetail } from '../common/api'
import { fromLocal, toLocal, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { givenValue } from '../common/fields/given'

const props = defineProps<{ meter: MeterDetail }>()
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const value = ref('')
const at = ref(toLocal(now.value))
const refused = ref('')

const { mutate, error, isPending } = useMutation({
  mutationFn: () =>
    answer(
      api.POST('/api/v1/readings', {
        params: { query: { source: 'entered' } },
        body: [
          {
            meter: props.meter.code,
            at: fromLocal(at.value) ?? '',
            value: givenValue(value.value, props.meter.kind === 'grade'),
          },
        ],
      }),
    ),
  onSuccess(receipt) {
    refused.value = receipt.refused[0]?.reason ?? ''
    if (refused.value) return
    const what = receipt.duplicates
      ? 'was there already'
      : receipt.quarantined
        ? 'is outside the plausible range and kept apart'
        : receipt.late
          ? 'is kept, marked as late'
          : 'is kept'
    const work = receipt.work_orders.length
      ? ` It raised or joined work ${receipt.work_orders.join(', ')}.`
      : ''
    ElMessage.success(`The reading ${what}.${work}`)
    emit('close')
    return client.invalidateQueries()
  },
})
const suffix = computed(() => unit(props.meter.unit))
</script>

<template>
  <form v-arrive class="inset" @submit.prevent="mutate()" @keydown.esc.stop="emit('close')">
    <label class="field">
      {{ meter.kind === 'grade' ? 'Observation' : `Value${suffix ? ` in ${suffix}` : ''}` }}
      <select v-if="meter.kind === 'grade'" v-model="value" class="line" name="value" required>
        <option v-for="grade in meter.grades" :key="grade">{{ grade }}</option>
      </select>
      <input v-else v-model="value" class="line" name="value" inputmode="decimal" required />
    </label>
    <label class="field"
      >Read at <input v-model="at" class="line" type="datetime-local" name="at" required
    /></label>
    <ElButton type="primary" native-type="submit" :loading="isPending">Keep the reading</ElButton>
    <button type="button" class="act" @click="emit('close')">Cancel</button>
    <p v-if="refused" class="wrong" role="alert">Refused: {{ refused }}.</p>
    <ProblemNote :error="error" />
  </form>
</template>

<style scoped>
.wrong {
  width: 100%;
  margin: 0;
}
</style>
