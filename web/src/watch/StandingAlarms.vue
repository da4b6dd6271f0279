<script setup lang="ts">
import type { AlarmRow } from '../common/api'
import { dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useAcknowledge } from './useAcknowledge'
import { momentOf, reached, responseWords } from '../common/alarms'

defineProps<{ alarms: AlarmRow[] }>()
const emit = defineEmits<{ seen: [] }>()
const { to } = useAddress()

/** Shown here; all are on a screen of their own. */
const FEW = 5

const { acknowledge, error } = useAcknowledge('/watch', () => emit('seen'))
</script>

<template>
  <section aria-label="Standing alarms">
    <h2>Standing alarms</h2>
    <ProblemNote :error="error" />
    <ul>
      <li v-for="alarm in alarms.slice(0, FEW)" :key="alarm.id" data-test="alarm">
        <SeverityStrokes :severity="alarm.severity" />
        <RouterLink :to="momentOf(alarm, to)" class="what">
          {{ alarm.asset.name }}: {{ alarm.meter_name }}
          <span class="quiet small code">{{ alarm.asset.code }}</span>
        </RouterLink>
        <span>{{ reached(alarm) }}</span>
        <span class="quiet small">since {{ dateTime(alarm.entered_at) }}</span>
        <span class="small">
          {{ responseWords[alarm.response] }}
          <RouterLink v-if="alarm.work_order" :to="to(`/work/${alarm.work_order}`)" class="in-text">
            {{ alarm.work_order }}
          </RouterLink>
        </span>
        <span class="seen small">
          <span v-if="alarm.acknowledged_at" class="quiet">acknowledged by {{ alarm.acknowledged_by }}</span>
          <button v-else class="act" @click="acknowledge([alarm])">Acknowledge</button>
        </span>
      </li>
    </ul>
    <RouterLink v-if="alarms.length > FEW" :to="to('/alarms')" class="act"
      >All {{ alarms.length }}</RouterLink
    >
  </section>
</template>

<style scoped>
.code {
  display: block;
  font-weight: 400;
  line-height: 1.2;
}

section {
  margin: 0 0 22px;
}

ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
  border-top: 1.5px solid var(--ink);
}

li {
  display: grid;
  grid-template-columns: 30px minmax(190px, 1.5fr) minmax(170px, 1.1fr) 168px 118px 108px;
  gap: 8px;
  align-items: baseline;
  padding: 5px 8px;
  border-bottom: 1px solid var(--rule);
}

.what {
  font-weight: 600;
}

.seen {
  text-align: right;
}

.act {
  padding: 0;
  font-size: 13px;
}

@container screen (max-width: 860px) {
  li {
    grid-template-columns: 30px minmax(0, 1fr);
    gap: 2px 8px;
  }

  li > :nth-child(n + 3) {
    grid-column: 2;
    text-align: left;
  }
}
</style>
