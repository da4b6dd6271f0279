<script setup lang="ts">
import FormField from './FormField.vue'

/** A day, as the installation's clocks show it: `2026-10-25`. */
defineProps<{
  label: string
  name?: string
  wrong?: string
  hint?: string
  required?: boolean
  disabled?: boolean
}>()
const day = defineModel<string>({ required: true })
</script>

<template>
  <FormField :label="label" :wrong="wrong" :hint="hint">
    <template #default="{ field }">
      <input
        v-model="day"
        v-bind="field"
        class="line"
        type="date"
        :name="name"
        :required="required"
        :disabled="disabled"
      />
    </template>
  </FormField>
</template>
