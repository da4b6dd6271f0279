<script setup lang="ts" generic="P extends string">
import { useAddress } from '../common/useAddress'

/** Tools below a chart, one open at a time; which one stands in the address. */
defineProps<{ panels: { panel: P; words: string }[] }>()
const { read, change } = useAddress()
</script>

<template>
  <p class="panels" role="group" aria-label="Tools">
    <button
      v-for="one in panels"
      :key="one.panel"
      class="plain"
      :aria-pressed="read('panel') === one.panel"
      :data-test="`panel-${one.panel}`"
      @click="change({ panel: read('panel') === one.panel ? '' : one.panel })"
    >
      {{ one.words }}
    </button>
  </p>
</template>

<style scoped>
.panels {
  display: flex;
  gap: 8px 22px;
  margin: 12px 0 6px;
}

.panels button {
  color: var(--accent);
  font-weight: 600;
  padding: 3px 0;
}

.panels button[aria-pressed='true'] {
  color: var(--ink);
  box-shadow: 0 2px 0 var(--accent);
}
</style>
