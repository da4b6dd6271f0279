<script setup lang="ts">
import type { Schemas } from '../common/api'
import { ago, count, hours, stateWords } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'

/** An order on the line of time. */
defineProps<{ order: Schemas['ShiftOrder']; at: Schemas['OnLine']; now: number }>()
const { to } = useAddress()
</script>

<template>
  <RouterLink :to="to(`/shift/${order.number}`)" class="row" :data-test="`shift-${order.number}`">
    <span class="what">
      <strong>{{ order.title }}</strong>
      <span class="quiet small where">
        <template v-for="asset in order.above.slice(-2)" :key="asset.code">{{ asset.name }} › </template
        >{{ order.asset.name }}
      </span>
      <span class="small facts">
        <SeverityStrokes v-if="order.source_severity" :severity="order.source_severity" word />
        <span>rank {{ order.risk_rank }}</span>
        <span v-if="order.open_checks">{{ count(order.open_checks, 'check sheet', 'check sheets') }}</span>
        <span v-if="!order.assignee" class="quiet">nobody’s yet</span>
        <span v-if="at === 'finished'" class="quiet">{{ stateWords[order.state] }}</span>
      </span>
    </span>
    <span class="when">
      <span v-if="order.estimated_hours != null" class="hours">{{ hours(order.estimated_hours) }} h</span>
      <span v-if="at === 'late'" class="late small">due {{ ago(order.due, now) }}</span>
      <span v-else-if="at === 'no_day'" class="quiet small">due {{ ago(order.due, now) }}</span>
    </span>
  </RouterLink>
</template>

<style scoped>
.row {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  min-height: 56px;
  padding: 10px 0;
  color: var(--ink);
  border-bottom: 1px solid var(--rule);
}

.row:hover {
  text-decoration: none;
  background: var(--paper-2);
}

.what {
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
}

.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: center;
}

.when {
  display: flex;
  flex: none;
  flex-direction: column;
  gap: 2px;
  align-items: flex-end;
  font-variant-numeric: tabular-nums;
}

.hours {
  font-weight: 600;
}

.late {
  color: var(--worse);
  font-weight: 600;
}
</style>
