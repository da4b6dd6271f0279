<script setup lang="ts">
import { search } from '../queries/plant'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import FormField from './FormField.vue'

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
const name = computed(() => assets.value.find((asset) => asset.code === code.value)?.name)
</script>

<template>
  <FormField :label="label ?? 'Asset'" :wrong="wrong">
    <template #beside>
      <span v-if="name" class="quiet">{{ name }}</span>
    </template>
    <template #default="{ field }">
      <input
        v-model="code"
        v-bind="field"
        class="line"
        name="work-asset"
        list="asset-choices"
        placeholder="Code, or letters of its name"
      />
      <datalist id="asset-choices">
        <option v-for="asset in assets" :key="asset.code" :value="asset.code">{{ asset.name }}</option>
      </datalist>
    </template>
  </FormField>
</template>
