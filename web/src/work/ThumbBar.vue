<script setup lang="ts">
/** At the thumb, below all else: how it stands, and what is pressed next. */
defineSlots<{ standing: () => unknown; default: () => unknown }>()
</script>

<template>
  <footer class="bar thumb-bar no-print">
    <span class="standing"><slot name="standing" /></span>
    <slot />
  </footer>
</template>

<style scoped>
.bar {
  position: fixed;
  inset: auto 0 0 0;
  z-index: 5;
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: center;
  padding: 10px 16px;
  background: var(--paper);
  border-top: 1.5px solid var(--ink);
}

.bar :deep(.el-button) {
  min-width: 96px;
  min-height: 48px;
  margin-left: 0;
}

.standing {
  display: grid;
  flex: 0 1 500px;
  min-width: 0;
}
</style>
