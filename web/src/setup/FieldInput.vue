<script setup lang="ts">
import { choices as choicesOf } from './queries/master'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, useId } from 'vue'
import FormField from '../common/fields/FormField.vue'
import type { Column } from './kinds'

const props = defineProps<{
  column: Column
  /** What is wrong with it, if anything. */
  wrong?: string
  /** Only shown. */
  fixed?: boolean
}>()
const value = defineModel<string>({ required: true })
const id = useId()

const form = computed(() => props.column.form)
const words = computed(() => {
  if (form.value.kind === 'yes_no') return ['yes', 'no']
  return form.value.kind === 'choice' ? form.value.words : undefined
})

/** Values that the field may refer to, as far as they fit what was typed. */
const asked = refDebounced(value, 150)
const { data: choices } = useQuery(() => ({
  ...choicesOf(form.value, asked.value),
  enabled: form.value.kind === 'refers' || form.value.kind === 'calendar',
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <FormField
    v-slot="{ field }"
    :label="column.label + (column.required ? ' *' : '')"
    :wrong="wrong"
    :hint="column.hint ?? undefined"
  >
    <select v-if="words" v-model="value" v-bind="field" class="line" :name="column.name" :disabled="fixed">
      <option v-if="!column.required" value=""></option>
      <option v-for="word in words" :key="word" :value="word">{{ word }}</option>
    </select>
    <input
      v-else
      v-model="value"
      v-bind="field"
      class="line"
      :type="form.kind === 'instant' ? 'datetime-local' : 'text'"
      :name="column.name"
      :list="choices?.length ? id : undefined"
      :inputmode="form.kind === 'number' || form.kind === 'money' ? 'decimal' : undefined"
      :disabled="fixed"
      autocomplete="off"
    />
    <datalist v-if="choices?.length" :id="id">
      <option v-for="one in choices" :key="one.code" :value="one.code">{{ one.name }}</option>
    </datalist>
  </FormField>
</template>
