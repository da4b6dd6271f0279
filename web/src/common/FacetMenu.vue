<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { useTemplateRef } from 'vue'

defineProps<{
  /** What is filtered by. */
  name: string
  /** What is chosen now, in a word or two. */
  chosen: string
}>()
const menu = useTemplateRef<HTMLDetailsElement>('menu')
function close() {
  if (menu.value) menu.value.open = false
}
/** The focus goes back to what opened it. */
function leave() {
  close()
  menu.value?.querySelector('summary')?.focus()
}
onClickOutside(menu, close)
</script>

<template>
  <details ref="menu" name="facet" @keydown.esc.stop="leave">
    <summary>
      {{ name }} <strong>{{ chosen }}</strong>
    </summary>
    <div class="values"><slot /></div>
  </details>
</template>

<style scoped>
details {
  position: relative;
}

summary {
  cursor: pointer;
  list-style: none;
  font-size: 14px;
  color: var(--ink-2);
}

summary strong {
  color: var(--ink);
  border-bottom: 1px dashed var(--ink-3);
}

.values {
  position: absolute;
  z-index: 10;
  top: 28px;
  left: -10px;
  display: grid;
  gap: 3px;
  min-width: 210px;
  max-height: 340px;
  overflow: auto;
  padding: 8px 12px;
  background: var(--paper);
  border: 1px solid var(--ink);
}
</style>
