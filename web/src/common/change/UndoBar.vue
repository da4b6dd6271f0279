<script setup lang="ts">
import { useRoute } from 'vue-router'
import { watch } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import { lastChange } from './undo'
import { useChange } from './useChange'

const route = useRoute()
const { mutate, error, isPending, reset } = useChange(async () => {
  await lastChange.value?.take()
  lastChange.value = undefined
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
    <button class="act" :disabled="isPending" @click="mutate()">Undo</button>
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
</style>
