<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { jobSheets } from '../queries/jobs'
import ChoiceField from './ChoiceField.vue'

/** A job sheet that work follows, of those that are active. */
defineProps<{ label?: string; wrong?: string; none?: string }>()
/** Its code; empty for none. */
const sheet = defineModel<string>({ required: true })
const { data } = useQuery(jobSheets())
</script>

<template>
  <ChoiceField
    v-if="sheet || data?.some((one) => one.status === 'active')"
    v-model="sheet"
    :label="label ?? 'Job sheet or round'"
    :wrong="wrong"
    name="job-sheet"
  >
    <option value="">{{ none ?? 'none' }}</option>
    <option
      v-for="one in data?.filter((one) => one.status === 'active' || one.code === sheet)"
      :key="one.code"
      :value="one.code"
    >
      {{ one.title }} ({{ one.code }})
    </option>
  </ChoiceField>
</template>
