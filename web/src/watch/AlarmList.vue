<script setup lang="ts">
import { meterAlarms } from './queries/meters'
import { useQuery } from '@tanstack/vue-query'
import { dateTime } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { afterWords, heldWords, leftWords, reached, responseWords } from '../common/alarms'

const props = defineProps<{
  /** Code. */
  meter: string
}>()
const { period, to } = useAddress()
const { data } = useQuery(() => meterAlarms(props.meter, { period: period.value }))
</script>

<template>
  <section v-if="data?.length">
    <h2>Alarms in the period</h2>
    <table class="ledger">
      <thead>
        <tr>
          <th>Severity</th>
          <th>Found</th>
          <th>Entered</th>
          <th>Left</th>
          <th>Response</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="alarm in data" :key="alarm.id" data-test="meter-alarm">
          <td><SeverityStrokes :severity="alarm.severity" word /></td>
          <td>{{ reached(alarm) }}</td>
          <td>{{ dateTime(alarm.entered_at) }}</td>
          <td>
            {{ alarm.left_at ? dateTime(alarm.left_at) : 'still standing' }}
            <span v-if="leftWords[alarm.left_by ?? '']" class="quiet small">{{
              leftWords[alarm.left_by ?? '']
            }}</span>
          </td>
          <td>
            {{ responseWords[alarm.response] }}
            <RouterLink v-if="alarm.work_order" :to="to(`/work/${alarm.work_order}`)" class="in-text">{{
              alarm.work_order
            }}</RouterLink>
            <span v-if="alarm.held_by" class="quiet small">{{ heldWords(alarm) }}</span>
            <span v-if="afterWords(alarm)" class="quiet small">{{ afterWords(alarm) }}</span>
            <span v-for="one in alarm.earlier" :key="one.at" class="quiet small earlier">
              before that {{ responseWords[one.response] }}
              <RouterLink v-if="one.work_order" :to="to(`/work/${one.work_order}`)" class="in-text">{{
                one.work_order
              }}</RouterLink>
              on {{ dateTime(one.at) }}
            </span>
            <span v-if="alarm.verdict" class="quiet small">{{ alarm.verdict.replace('_', ' ') }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}

.earlier {
  display: block;
}
</style>
