<script setup lang="ts">
import { ArrowDown, ArrowUp, X } from '@lucide/vue'

/** Moves a line up or down among its like, or takes it away. */
defineProps<{
  /** What a line is called, such as `question`. */
  name: string
  place: number
  isLast: boolean
}>()
const emit = defineEmits<{ remove: []; move: [by: number] }>()
</script>

<template>
  <span class="buttons">
    <button
      type="button"
      :disabled="place === 0"
      :aria-label="`Move ${name} ${place + 1} up`"
      title="Up ( Alt ↑ )"
      @click="emit('move', -1)"
    >
      <ArrowUp :size="16" />
    </button>
    <button
      type="button"
      :disabled="isLast"
      :aria-label="`Move ${name} ${place + 1} down`"
      title="Down ( Alt ↓ )"
      @click="emit('move', 1)"
    >
      <ArrowDown :size="16" />
    </button>
    <button type="button" :aria-label="`Remove ${name} ${place + 1}`" @click="emit('remove')">
      <X :size="16" />
    </button>
  </span>
</template>

<style scoped>
.buttons {
  display: flex;
}

button {
  display: grid;
  place-items: center;
  width: 28px;
  height: 32px;
  color: var(--ink-2);
  background: none;
  border: 0;
  cursor: pointer;
}

button:disabled {
  opacity: 0.35;
  cursor: default;
}
</style>
