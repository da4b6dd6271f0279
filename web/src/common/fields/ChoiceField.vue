<script setup lang="ts" generic="Value">
import FormField from './FormField.vue'

/** One of a few: the options stand in the slot. */
defineProps<{
  label: string
  wrong?: string
  hint?: string
  name?: string
  disabled?: boolean
}>()
const chosen = defineModel<Value>()
</script>

<template>
  <FormField v-slot="{ field }" :label="label" :wrong="wrong" :hint="hint">
    <select v-model="chosen" v-bind="field" class="line" :name="name" :disabled="disabled">
      <slot />
    </select>
  </FormField>
</template>
