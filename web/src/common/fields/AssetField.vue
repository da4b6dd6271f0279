<script setup lang="ts">
import { search } from '../queries/plant'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import ReferenceField from './ReferenceField.vue'

defineProps<{
  /** What is wrong with it, if anything. */
  wrong?: string
  /** What it is for; the asset itself where nothing is said. */
  label?: string
}>()
/** Code of an asset, or letters of its name while it is looked for. */
const code = defineModel<string>({ required: true })

const asked = refDebounced(code, 120)
const { data } = useQuery(() => ({
  ...search(asked.value),
  enabled: asked.value.trim() !== '',
  placeholderData: keepPreviousData,
}))
const assets = computed(() => data.value?.filter((hit) => hit.kind === 'asset') ?? [])
</script>

<template>
  <ReferenceField
    v-model="code"
    :label="label ?? 'Asset'"
    :wrong="wrong"
    :choices="assets"
    name="work-asset"
    placeholder="Code, or letters of its name"
  />
</template>
