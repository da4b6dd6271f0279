<script setup lang="ts">
import { computed } from 'vue'
import FacetCheck from './FacetCheck.vue'
import FacetMenu from './FacetMenu.vue'
import InstantField from './fields/InstantField.vue'
import { dateTime } from './format'

/** A past instant to ask for, and whether only what was known by then counts. */
const props = defineProps<{ asOf?: string; knownAt?: string }>()
const emit = defineEmits<{ ask: [asOf: string | undefined, knownAt: string | undefined] }>()

const isKnown = computed(() => Boolean(props.knownAt))
const ask = (at: string | undefined, known: boolean) => emit('ask', at, known ? at : undefined)
const at = computed<string | null>({
  get: () => props.asOf ?? null,
  set: (at) => ask(at ?? undefined, isKnown.value),
})
const label = computed(() => {
  if (!at.value) return 'now'
  return isKnown.value ? `${dateTime(at.value)}, as known then` : dateTime(at.value)
})
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
      @toggle="ask(asOf, !isKnown)"
    />
  </FacetMenu>
</template>
