<script setup lang="ts">
import ProblemNote from '../ProblemNote.vue'
import { useInstallation } from '../installation'
import { useLive } from '../live/useLive'

/** A screen, once it is known what holds for the whole installation; it hears what happens as long as it stands. */
const { ready, error, refetch } = useInstallation()
useLive()
</script>

<template>
  <slot v-if="ready" />
  <template v-else-if="error">
    <h1>The installation can’t be read</h1>
    <ProblemNote :error="error" :again="refetch" />
  </template>
</template>
