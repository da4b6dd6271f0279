<script setup lang="ts">
import { useAddress } from './useAddress'

/** The parts of a workspace, one of which is open. */
defineProps<{
  name: string
  parts: {
    path: string
    name: string
    here: boolean
    /** A line of its own begins with it. */
    begins?: boolean
  }[]
}>()
const { to } = useAddress()
</script>

<template>
  <nav class="parts no-print" :aria-label="name">
    <template v-for="part in parts" :key="part.path">
      <span v-if="part.begins" class="begins"></span>
      <RouterLink
        :to="to(part.path)"
        :class="{ here: part.here }"
        :aria-current="part.here ? 'page' : undefined"
        >{{ part.name }}</RouterLink
      >
    </template>
  </nav>
</template>
