<script setup lang="ts">
import FormField from './FormField.vue'

/** A text of one line, or of several. */
defineProps<{
  label: string
  wrong?: string
  hint?: string
  name?: string
  placeholder?: string
  required?: boolean
  /** What the browser may fill in. */
  autocomplete?: string
  /** The server asks for it: said to who hears the page, and not kept back here. */
  needed?: boolean
  /** The label is only heard. */
  unseen?: boolean
  /** It may have more than one line. */
  long?: boolean
}>()
const text = defineModel<string | null>()
</script>

<template>
  <FormField v-slot="{ field }" :label="label" :wrong="wrong" :hint="hint" :unseen="unseen">
    <textarea
      v-if="long"
      v-model="text"
      v-bind="field"
      class="line"
      :name="name"
      :placeholder="placeholder"
      :required="required"
      :aria-required="needed"
    />
    <input
      v-else
      v-model="text"
      v-bind="field"
      class="line"
      :name="name"
      :placeholder="placeholder"
      :required="required"
      :autocomplete="autocomplete"
      :aria-required="needed"
    />
  </FormField>
</template>
