<script setup lang="ts">
import { computed, useId } from 'vue'
import FormField from './FormField.vue'

/** A code of something there is: typed, or chosen from what fits the letters so far. */
const props = defineProps<{
  label: string
  wrong?: string
  hint?: string
  name?: string
  placeholder?: string
  disabled?: boolean
  /** What fits what is typed, as far as it was asked for. */
  choices: { code: string; name?: string }[]
}>()
const code = defineModel<string>({ required: true })
const list = useId()
/** The name of what is chosen. */
const chosen = computed(() => props.choices.find((one) => one.code === code.value)?.name)
</script>

<template>
  <FormField :label="label" :wrong="wrong" :hint="hint">
    <template #beside>
      <span v-if="chosen" class="quiet">{{ chosen }}</span>
    </template>
    <template #default="{ field }">
      <input
        v-model="code"
        v-bind="field"
        class="line"
        autocomplete="off"
        :name="name"
        :list="choices.length ? list : undefined"
        :placeholder="placeholder"
        :disabled="disabled"
      />
      <datalist v-if="choices.length" :id="list">
        <option v-for="one in choices" :key="one.code" :value="one.code">{{ one.name }}</option>
      </datalist>
    </template>
  </FormField>
</template>
