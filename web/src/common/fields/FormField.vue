<script setup lang="ts">
import { computed, useId } from 'vue'

/** A field with its label, and what is wrong with it beside: tied to it for who hears the page instead of seeing it. */
const props = defineProps<{
  label: string
  /** What is wrong with it, if anything. */
  wrong?: string
  /** What helps to fill it in, where nothing is wrong. */
  hint?: string
  /** The label is only heard: what stands around the field says what it is. */
  unseen?: boolean
}>()
const id = useId()
/** For the field itself: `v-bind` it. */
const field = computed(() => ({
  id,
  'aria-describedby': props.wrong || props.hint ? `${id}-says` : undefined,
  'aria-invalid': props.wrong ? true : undefined,
}))
</script>

<template>
  <div class="field">
    <label :for="id" :class="{ unseen }">{{ label }} <slot name="beside" /></label>
    <slot :field="field" />
    <span v-if="wrong" :id="`${id}-says`" class="wrong" role="alert">{{ wrong }}</span>
    <span v-else-if="hint" :id="`${id}-says`" class="hint">{{ hint }}</span>
  </div>
</template>

<style scoped>
.unseen {
  position: absolute;
  clip-path: inset(50%);
}

.hint {
  font-size: 12.5px;
  color: var(--ink-2);
}
</style>
