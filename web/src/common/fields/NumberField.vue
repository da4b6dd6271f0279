<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import FormField from './FormField.vue'
import { typedNumber } from './numbers'

/**
 * A number, with a point or a comma as it is typed. What is no number is said and keeps its form from going out; it stays
 * as it was typed.
 */
const props = defineProps<{
  label: string
  wrong?: string
  hint?: string
  name?: string
  /** As it is shown. */
  unit?: string
  required?: boolean
  min?: number
  max?: number
  /** The label is only heard. */
  unseen?: boolean
}>()
const value = defineModel<number | null>()
const typed = ref(value.value == null ? '' : String(value.value))
const input = useTemplateRef<HTMLInputElement>('input')
watch(value, (value) => {
  // What is typed means the same already, or is no number yet.
  if (typedNumber(typed.value) !== (value ?? undefined)) typed.value = value == null ? '' : String(value)
})
const fault = computed(() => {
  const number = typedNumber(typed.value)
  if (number === undefined) return undefined
  if (!Number.isFinite(number)) return 'is not a number'
  if (props.min !== undefined && number < props.min) return `must be ${props.min} or more`
  if (props.max !== undefined && number > props.max) return `must be ${props.max} or less`
  return undefined
})
watch(fault, (fault) => input.value?.setCustomValidity(fault ?? ''))
function type(text: string) {
  typed.value = text
  if (!fault.value) value.value = typedNumber(text)
}
/** It is said once the field is left, not while it is typed. */
const left = ref(false)
</script>

<template>
  <FormField
    v-slot="{ field }"
    :label="label"
    :wrong="(left ? fault : undefined) ?? wrong"
    :hint="hint"
    :unseen="unseen"
  >
    <span class="number">
      <input
        v-bind="field"
        ref="input"
        class="line"
        inputmode="decimal"
        autocomplete="off"
        :name="name"
        :value="typed"
        :required="required"
        @input="type(($event.target as HTMLInputElement).value)"
        @blur="left = true"
        @invalid="left = true"
      />
      <span v-if="unit" class="quiet">{{ unit }}</span>
    </span>
  </FormField>
</template>

<style scoped>
.number {
  display: flex;
  gap: 6px;
  align-items: center;
}

input {
  flex: 1 1 auto;
  min-width: 0;
  width: 100%;
}
</style>
