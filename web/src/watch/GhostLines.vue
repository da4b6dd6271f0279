<script setup lang="ts">
import { computed } from 'vue'
import type { Proposal } from '../common/api'
import { plain } from '../common/format'
import { LEFT, RIGHT, type Range, yOf } from '../common/chart/geometry'
import { methodWords } from './methods'

const props = defineProps<{
  proposals: Proposal[]
  range: Range
  height: number
  unit: string
}>()
const emit = defineEmits<{ take: [Proposal] }>()
const lines = computed(() =>
  props.proposals.map((proposal, index) => ({
    proposal,
    y: yOf(proposal.setpoint, props.range, props.height),
    // Beside each other, so that lines close together can be told apart.
    right: `${6 + (index % 5) * 106}px`,
  })),
)
</script>

<template>
  <div class="ghosts" :style="{ left: `${LEFT}px`, right: `${RIGHT}px` }">
    <button
      v-for="(line, index) in lines"
      :key="index"
      class="plain ghost"
      :style="{ top: `${line.y}px` }"
      :title="`${line.proposal.formula}: ${plain(line.proposal.offered)} ${unit}`"
      data-test="ghost"
      @click="emit('take', line.proposal)"
    >
      <span :style="{ right: line.right }">{{ methodWords[line.proposal.method] }}</span>
    </button>
  </div>
</template>

<style scoped>
.ghosts {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}

.ghost {
  position: absolute;
  left: 0;
  right: 0;
  height: 7px;
  margin-top: -3.5px;
  pointer-events: auto;
  border-top: 1px dashed var(--ink-3);
  background: none;
}

.ghost:hover,
.ghost:focus-visible {
  border-top: 2px dashed var(--accent);
}

span {
  position: absolute;
  top: -9px;
  font-size: 11.5px;
  line-height: 1;
  padding: 2px 3px;
  color: var(--ink-2);
  background: color-mix(in srgb, var(--paper) 86%, transparent);
}
</style>
