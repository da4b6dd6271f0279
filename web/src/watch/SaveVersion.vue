<script setup lang="ts">
import { computed } from 'vue'
import { Problem } from '../common/api'
import FormField from '../common/fields/FormField.vue'
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
    <FormField v-slot="{ field }" label="Reason for the change" :wrong="wrong">
      <input
        v-model="reason"
        v-bind="field"
        class="line"
        name="reason"
        placeholder="What made you change them?"
      />
    </FormField>
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
