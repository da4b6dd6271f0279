<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import ReferenceField from '../common/fields/ReferenceField.vue'
import { activePlans } from './queries/meters'

/** The upkeep plan that a limit brings forward: by letters of its code or what it does. */
const plan = defineModel<string | null>()
const text = computed({ get: () => plan.value ?? '', set: (typed) => (plan.value = typed.trim() || null) })
const asked = refDebounced(text, 150)
const { data: plans } = useQuery(() => ({
  ...activePlans(asked.value),
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <ReferenceField
    v-model="text"
    label="Upkeep plan"
    name="plan"
    hint="its next cycle is raised at once; work of it that is open is joined"
    :choices="plans ?? []"
  />
</template>
