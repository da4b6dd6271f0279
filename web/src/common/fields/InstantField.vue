<script setup lang="ts">
import { computed } from 'vue'
import { fromLocal, toLocal } from '../format'
import FormField from './FormField.vue'

/** An instant, typed as the date and time that clocks show in the installation's time zone. */
defineProps<{
  label: string
  wrong?: string
  hint?: string
  name?: string
  required?: boolean
  disabled?: boolean
}>()
const at = defineModel<string | null>()
const local = computed({
  get: () => (at.value ? toLocal(at.value) : ''),
  set: (local) => (at.value = fromLocal(local) ?? ''),
})
</script>

<template>
  <FormField v-slot="{ field }" :label="label" :wrong="wrong" :hint="hint">
    <input
      v-model="local"
      v-bind="field"
      class="line"
      type="datetime-local"
      :name="name"
      :required="required"
      :disabled="disabled"
    />
  </FormField>
</template>
