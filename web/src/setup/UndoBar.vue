<script setup lang="ts">
import { useRoute } from 'vue-router'
import { watch } from 'vue'
import { answer, api } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/useChange'
import { lastChange } from './undo'

const route = useRoute()
const { mutate, error, isPending, reset } = useChange(async () => {
  const undo = lastChange.value
  if (!undo) return
  await answer(
    api.POST('/api/v1/master/{kind}', {
      params: { path: { kind: undo.kind } },
      body: { rows: undo.rows, reason: 'Taken back' },
    }),
  )
  lastChange.value = undefined
})
watch(lastChange, () => reset())
// The offer stands as long as one stays in the setup.
watch(
  () => route.path.startsWith('/setup'),
  (inside) => {
    if (!inside) lastChange.value = undefined
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
