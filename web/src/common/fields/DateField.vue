<script setup lang="ts">
import FormField from './FormField.vue'

/** A day, as the installation's clocks show it: `2026-10-25`. */
defineProps<{ label: string; name?: string; wrong?: string; required?: boolean }>()
const day = defineModel<string>({ required: true })
</script>

<template>
  <FormField :label="label" :wrong="wrong">
    <template #default="{ field }">
      <input v-model="day" v-bind="field" class="line" type="date" :name="name" :required="required" />
    </template>
  </FormField>
</template>
