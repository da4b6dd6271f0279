<script setup lang="ts">
import FacetCheck from './FacetCheck.vue'
import FacetMenu from './FacetMenu.vue'
import { inShort, whole } from './format'

type Value = { value: string; name?: string; count: number }

/** A menu of values with how much has each, of which any may be chosen. */
const props = defineProps<{
  name: string
  values: Value[]
  chosen: string[]
  /** A value in words. */
  says: (one: { value: string; name: string }) => string
  /** What is chosen in a word, where it has one. */
  label?: string
}>()
defineEmits<{ all: []; toggle: [value: string] }>()

const inWords = (value: string) =>
  props.says({ value, name: props.values.find((one) => one.value === value)?.name ?? value })
</script>

<template>
  <FacetMenu :name="name" :chosen="label ?? inShort(chosen.map(inWords))">
    <button class="act" @click="$emit('all')">All</button>
    <slot name="also" />
    <FacetCheck
      v-for="one in values"
      :key="one.value"
      :name="inWords(one.value)"
      :note="whole(one.count)"
      :checked="chosen.includes(one.value)"
      @toggle="$emit('toggle', one.value)"
    />
    <slot />
  </FacetMenu>
</template>
