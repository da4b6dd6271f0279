<script setup lang="ts">
import { computed } from 'vue'
import type { MeterRow } from '../common/api'
import { plain, unit } from '../common/format'

/** How far a meter is from its nearest limit. */
const props = defineProps<{ meter: MeterRow }>()

const left = computed(() => {
  const share = props.meter.distance_share
  return share == null ? undefined : Math.max(0, Math.min(1, share))
})
const past = computed(() => (props.meter.distance ?? 1) <= 0)
const distance = computed(() => {
  const { distance, nearest_rung, unit: ucum } = props.meter
  if (distance == null) return ''
  const size = `${plain(Math.abs(distance))} ${unit(ucum)}`.trim()
  return past.value ? `${size} past ${nearest_rung}` : `${size} to ${nearest_rung}`
})
</script>

<template>
  <template v-if="left !== undefined">
    <div class="track"><div class="left" :class="{ past }" :style="{ width: `${left * 100}%` }" /></div>
    <div class="quiet small" :class="{ past }">{{ distance }}</div>
  </template>
  <span v-else-if="!meter.has_ladder" class="quiet small">no limits set</span>
</template>

<style scoped>
.track {
  width: 180px;
  height: 5px;
  margin: 5px 0 2px;
  background: var(--paper-3);
  border-left: 2px solid var(--serious);
}

.left {
  height: 100%;
  background: var(--ink-3);
}

div.past.small {
  color: var(--worse);
  font-weight: 600;
}
</style>
