<script setup lang="ts">
import { choices as choicesOf } from './queries/master'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import DateField from '../common/fields/DateField.vue'
import InstantField from '../common/fields/InstantField.vue'
import ReferenceField from '../common/fields/ReferenceField.vue'
import { inWords } from '../common/format'
import type { Column } from './kinds'

const props = defineProps<{
  column: Column
  /** What is wrong with it, if anything. */
  wrong?: string
  /** Only shown. */
  fixed?: boolean
}>()
const value = defineModel<string>({ required: true })
const label = computed(() => props.column.label + (props.column.required ? ' *' : ''))
const hint = computed(() => props.column.hint ?? undefined)

const form = computed(() => props.column.form)
const words = computed(() => {
  if (form.value.kind === 'yes_no') return ['yes', 'no']
  return form.value.kind === 'choice' ? form.value.words : undefined
})

/** Values that the field may refer to, as far as they fit what was typed. */
const asked = refDebounced(value, 150)
const { data: choices } = useQuery(() => ({
  ...choicesOf(form.value, asked.value),
  enabled: !words.value,
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <ChoiceField
    v-if="words"
    v-model="value"
    :label="label"
    :wrong="wrong"
    :hint="hint"
    :name="column.name"
    :disabled="fixed"
  >
    <option v-if="!column.required" value=""></option>
    <option v-for="word in words" :key="word" :value="word">{{ inWords(word) }}</option>
  </ChoiceField>
  <InstantField
    v-else-if="form.kind === 'instant'"
    v-model="value"
    :label="label"
    :wrong="wrong"
    :hint="hint"
    :name="column.name"
    :disabled="fixed"
  />
  <DateField
    v-else-if="form.kind === 'date'"
    v-model="value"
    :label="label"
    :wrong="wrong"
    :hint="hint"
    :name="column.name"
    :disabled="fixed"
  />
  <ReferenceField
    v-else
    v-model="value"
    :label="label"
    :wrong="wrong"
    :hint="hint"
    :name="column.name"
    :choices="choices ?? []"
    :disabled="fixed"
  />
</template>
