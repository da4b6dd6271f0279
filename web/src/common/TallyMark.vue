<script setup lang="ts">
/** The product's mark: four strokes and one across. */
const { width = 30 } = defineProps<{ width?: number }>()
</script>

<template>
  <svg viewBox="0 0 32 26" :width="width" :height="(width * 24) / 30" aria-hidden="true">
    <path class="stroke" d="M6 4v18M12.5 4v18M19 4v18M25.5 4v18" />
    <path class="across" d="M2.5 19.5 29 6.5" />
  </svg>
</template>

<style scoped>
.stroke,
.across {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
  stroke-linecap: round;
}

.across {
  stroke: var(--accent);
}
</style>
