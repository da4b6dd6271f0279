<script setup lang="ts">
import AsOfMenu from '../common/AsOfMenu.vue'
import { useTally } from '../common/useTally'
import AgainstChoice from './AgainstChoice.vue'
import HeldChoice from './HeldChoice.vue'

/** What all looks at figures can be asked for, in one line above them. */
withDefaults(defineProps<{ compares?: boolean }>(), { compares: true })
const { past, change } = useTally()
const ask = (as_of?: string, known_at?: string) => change({ as_of: as_of ?? '', known_at: known_at ?? '' })
</script>

<template>
  <div class="facets no-print tools">
    <AgainstChoice v-if="compares" />
    <AsOfMenu :as-of="past.as_of" :known-at="past.known_at" @ask="ask" />
    <HeldChoice />
    <slot />
  </div>
</template>

<style scoped>
.tools {
  margin-top: 10px;
}
</style>
