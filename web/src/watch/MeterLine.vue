<script setup lang="ts">
import { computed } from 'vue'
import type { MeterRow } from '../common/api'
import { ago, dateTime, plain, reading, unit } from '../common/format'
import { now } from '../common/installation'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import Sparkline from '../common/chart/Sparkline.vue'
import { useAddress } from '../common/useAddress'

const props = defineProps<{ meter: MeterRow }>()
const { to } = useAddress()

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
  <tr>
    <td><SeverityStrokes :severity="meter.worst_severity" /></td>
    <td>
      <RouterLink :to="to(`/watch/${meter.code}`)" class="name" data-test="meter" data-row>{{
        meter.name
      }}</RouterLink>
      <div class="quiet small">{{ meter.asset.name }} · {{ meter.asset.code }}</div>
    </td>
    <td><Sparkline v-if="meter.spark?.length" :values="meter.spark" /></td>
    <td class="num">{{ meter.last ? reading(meter.last.value, meter.unit, meter.grades) : 'never read' }}</td>
    <td>
      <template v-if="left !== undefined">
        <div class="track"><div class="left" :class="{ past }" :style="{ width: `${left * 100}%` }" /></div>
        <div class="quiet small" :class="{ past }">{{ distance }}</div>
      </template>
      <span v-else-if="!meter.has_ladder" class="quiet small">no limits set</span>
    </td>
    <td class="num small quiet" :title="meter.last ? dateTime(meter.last.at) : undefined">
      {{ meter.last ? ago(meter.last.at, now) : '' }}
    </td>
  </tr>
</template>

<style scoped>
.name {
  font-weight: 600;
}

td {
  vertical-align: middle !important;
  padding-block: 4px !important;
}

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
