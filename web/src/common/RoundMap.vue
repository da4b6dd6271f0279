<script setup lang="ts">
import type { Schemas } from './api'

/** The part of the tree that a round leads through, with its visits by their numbers. */
defineProps<{
  lines: Schemas['MapLine'][]
  /** What became of each visit, where it was walked. */
  outcomes?: ('open' | 'done' | 'skipped')[]
}>()
const words = { open: 'to visit', done: 'visited', skipped: 'skipped' }
</script>

<template>
  <ol class="map" aria-label="Map of the round" data-test="round-map">
    <li v-for="line in lines" :key="line.code" :style="{ paddingLeft: `${line.depth * 16}px` }">
      <span :class="{ quiet: !line.visits.length }">{{ line.name }}</span>
      <span
        v-for="visit in line.visits"
        :key="visit"
        class="visit"
        :class="outcomes?.[visit] ?? 'open'"
        :title="`Visit ${visit + 1}: ${words[outcomes?.[visit] ?? 'open']}`"
        >{{ visit + 1 }}</span
      >
    </li>
  </ol>
</template>

<style scoped>
.map {
  margin: 0;
  padding: 0;
  font-size: 14px;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 6px;
  align-items: center;
  min-height: 26px;
}

.visit {
  display: grid;
  place-items: center;
  min-width: 20px;
  height: 20px;
  padding: 0 4px;
  font-size: 12px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
  color: var(--ink);
  border: 1.5px solid var(--ink);
  border-radius: 10px;
}

.done {
  color: var(--paper);
  background: var(--ink);
}

.skipped {
  color: var(--ink-2);
  text-decoration: line-through;
  border-color: var(--ink-3);
  border-style: dashed;
}
</style>
