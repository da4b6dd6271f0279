<script setup lang="ts">
import { computed } from 'vue'
import type { Severity } from './api'
import { severities } from '../generated/words'

const props = defineProps<{
  /** None draws nothing, but keeps its place. */
  severity?: Severity | null
  /** Says the word beside the strokes too. */
  word?: boolean
}>()

const strokes = computed(() => (props.severity ? severities.indexOf(props.severity) + 1 : 0))
/** Beside their word the strokes take no more room than they need; in a column they all take the same. */
const width = computed(() => (props.word ? strokes.value * 5 + 1 : 22))
</script>

<template>
  <span class="strokes" :data-severity="severity" :title="severity ?? undefined">
    <svg :viewBox="`0 0 ${width} 16`" :width="width" height="16" aria-hidden="true">
      <path v-for="n in strokes" :key="n" :d="`M${n * 5 - 2.5} 2v12`" />
    </svg>
    <span v-if="severity" :class="word ? 'word' : 'unseen'">{{ severity }}</span>
  </span>
</template>

<style scoped>
.strokes {
  white-space: nowrap;
}

svg {
  display: inline-block;
  height: 0.95em;
  vertical-align: -0.08em;
}

path {
  stroke: currentColor;
  stroke-width: 2.6;
  stroke-linecap: round;
}

.word {
  margin-left: 4px;
  font-weight: 600;
}

.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
