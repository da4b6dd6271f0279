<script setup lang="ts">
import { useRoute } from 'vue-router'
import { watch } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import { lastChange } from './undo'
import { useMutation } from '@tanstack/vue-query'
import type { Undo } from './registry'
import { useCarryOut } from './useChange'

const route = useRoute()
const carry = useCarryOut()
const { mutate, error, isPending, reset } = useMutation({
  mutationFn: (undo: Undo) => carry(undo.takes),
  async onSuccess({ readAgain }) {
    lastChange.value = undefined
    await readAgain()
  },
})
watch(lastChange, () => reset())
watch(
  () => route.path,
  (path) => {
    if (lastChange.value && !path.startsWith(lastChange.value.within)) lastChange.value = undefined
  },
)
</script>

<template>
  <div v-if="lastChange" class="undo no-print" role="status" data-test="undo">
    <span>{{ lastChange.says }}</span>
    <button class="act" :disabled="isPending" @click="mutate(lastChange)">Undo</button>
    <button class="act" @click="lastChange = undefined">Fine</button>
    <ProblemNote :error="error" />
  </div>
</template>

<style scoped>
.undo {
  position: fixed;
  left: 50%;
  bottom: 22px;
  transform: translateX(-50%);
  z-index: 30;
  display: flex;
  gap: 16px;
  align-items: baseline;
  max-width: 80vw;
  padding: 10px 18px;
  background: var(--paper);
  border: 1.5px solid var(--ink);
}

/* Above what a thumb presses at the edge. */
:global(:root:has(.thumb-bar) .undo) {
  bottom: 84px;
}
</style>
