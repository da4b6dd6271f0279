<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{
  /** Equal parts of a period; gaps where nothing was read. */
  values: (number | null)[]
}>()

const WIDTH = 132
const HEIGHT = 26

/** The known values as one line, and where it ends. */
const points = computed(() => {
  const known = props.values.flatMap((value, index) => (value == null ? [] : [{ value, index }]))
  const sizes = known.map((point) => point.value)
  const [low, high] = [Math.min(...sizes), Math.max(...sizes)]
  const scale = high > low ? (HEIGHT - 6) / (high - low) : 0
  const step = WIDTH / (props.values.length - 1)
  return known.map(({ value, index }) => ({
    x: index * step,
    y: HEIGHT - 3 - (scale ? (value - low) * scale : (HEIGHT - 6) / 2),
  }))
})
const line = computed(() => points.value.map(({ x, y }) => `${x.toFixed(1)},${y.toFixed(1)}`).join(' '))
const last = computed(() => points.value.at(-1))
</script>

<template>
  <svg class="spark" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" :width="WIDTH" :height="HEIGHT" aria-hidden="true">
    <polyline :points="line" />
    <circle v-if="last" :cx="last.x" :cy="last.y" r="2" />
  </svg>
</template>

<style scoped>
.spark {
  display: block;
  overflow: visible;
}

circle {
  fill: var(--ink);
}

polyline {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3;
  stroke-linejoin: round;
  stroke-linecap: round;
}
</style>
