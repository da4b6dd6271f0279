<script setup lang="ts">
import { computed } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import InstantField from '../common/fields/InstantField.vue'
import { dateTime } from '../common/format'
import { useChosen } from './useChosen'

/** A past instant to ask for, and whether only what was known by then counts. */
const { chosen, choose } = useChosen()
const at = computed<string | null>({
  get: () => chosen.value.as_of ?? null,
  set: (at) => ask(at ?? undefined, isKnown.value),
})
const isKnown = computed(() => chosen.value.known_at !== undefined)
const label = computed(() => {
  if (!at.value) return 'now'
  return isKnown.value ? `${dateTime(at.value)}, as known then` : dateTime(at.value)
})
const ask = (as_of: string | undefined, known: boolean) =>
  choose({ ...chosen.value, as_of, known_at: known ? as_of : undefined })
</script>

<template>
  <FacetMenu name="As of" :chosen="label" data-test="as-of">
    <button class="act" @click="ask(undefined, false)">Now</button>
    <InstantField v-model="at" label="As it was at" name="as_of" />
    <FacetCheck
      name="Only what was known then"
      :checked="isKnown"
      :disabled="!at"
      data-test="known-then"
      @toggle="ask(chosen.as_of, !isKnown)"
    />
  </FacetMenu>
</template>
