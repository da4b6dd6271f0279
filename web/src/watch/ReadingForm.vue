<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import TextField from '../common/fields/TextField.vue'
import InstantField from '../common/fields/InstantField.vue'
import { useChange } from '../common/change/useChange'
import { enterReadings } from '../common/change/readings'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { type MeterDetail } from '../common/api'
import { onTheMinute, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { givenValue } from '../common/fields/given'

const props = defineProps<{ meter: MeterDetail }>()
const emit = defineEmits<{ close: [] }>()
const value = ref('')
const at = ref(onTheMinute(now.value))
const refused = ref('')

const { mutate, error, isPending } = useChange(enterReadings, (receipt) => {
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
})
const read = () => [
  { meter: props.meter.code, at: at.value, value: givenValue(value.value, props.meter.kind === 'grade') },
]
const suffix = computed(() => unit(props.meter.unit))
</script>

<template>
  <form v-arrive class="inset" @submit.prevent="mutate(read)" @keydown.esc.stop="emit('close')">
    <ChoiceField v-if="meter.kind === 'grade'" v-model="value" label="Observation" name="value">
      <option v-for="grade in meter.grades" :key="grade" :value="grade">{{ grade }}</option>
    </ChoiceField>
    <TextField
      v-else
      v-model="value"
      :label="`Value${suffix ? ` in ${suffix}` : ''}`"
      name="value"
      required
    />
    <InstantField v-model="at" label="Read at" name="at" required />
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
