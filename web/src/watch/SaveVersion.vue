<script setup lang="ts">
import TextField from '../common/fields/TextField.vue'
import { computed } from 'vue'
import { Problem } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'

const props = defineProps<{
  error?: unknown
  /** Fields that show their own error beside them. */
  shown: string[]
  saving: boolean
}>()
const emit = defineEmits<{ takeBack: [] }>()
const reason = defineModel<string>({ required: true })
const wrong = computed(() => (props.error instanceof Problem ? props.error.of('reason') : undefined))
</script>

<template>
  <div class="save">
    <TextField
      v-model="reason"
      label="Reason for the change"
      :wrong="wrong"
      name="reason"
      placeholder="What made you change them?"
    />
    <ProblemNote :error="error" :shown="['reason', ...shown]" />
    <div class="buttons">
      <ElButton type="primary" native-type="submit" :loading="saving"><slot /></ElButton>
      <button type="button" class="act" @click="emit('takeBack')">Take back</button>
    </div>
  </div>
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
</style>
