<script setup lang="ts">
import { responseWords } from '../common/alarms'
import type { WorkDetail } from '../common/api'
import { dateTime, localDate, plain, unit } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { everyWords } from './every'

/** The cycle of an upkeep plan whose work this is. */
defineProps<{ cycle: NonNullable<WorkDetail['cycle']>; mayPlan: boolean }>()
const { to } = useAddress()
</script>

<template>
  <section class="why" data-test="work-cycle">
    <h2>Why this work exists</h2>
    <p>
      Cycle {{ cycle.number }} of
      <RouterLink v-if="mayPlan" :to="to(`/setup/upkeep-plans/${cycle.plan}`)">{{ cycle.name }}</RouterLink>
      <template v-else>{{ cycle.name }}</template>, every {{ everyWords(cycle) }}; due
      {{ localDate(cycle.due)
      }}<template v-if="cycle.mark != null">
        at {{ plain(cycle.mark) }} {{ unit(cycle.unit ?? '1') }}</template
      ><template v-if="cycle.moved_to">, moved to {{ localDate(cycle.moved_to) }}</template
      ><template v-if="cycle.brought_forward">, <strong>brought forward</strong></template
      >.
    </p>
    <ul v-if="cycle.occurrences.length" class="small">
      <li v-for="alarm in cycle.occurrences" :key="alarm.id">
        <SeverityStrokes :severity="alarm.severity" />
        <RouterLink :to="to(`/watch/${alarm.meter}`)">{{ alarm.meter_name }}</RouterLink> read
        {{ alarm.shown }}, {{ dateTime(alarm.entered_at) }}: {{ responseWords[alarm.response] }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 8px 0 0;
}

ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
</style>
