<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { answer, api, type AlarmRow } from '../common/api'
import { dateTime } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { responseWords } from './words'

const props = defineProps<{
  /** Code. */
  meter: string
}>()
const { period, to } = useAddress()
const { data } = useQuery({
  queryKey: ['meter-alarms', () => props.meter, period],
  queryFn: () =>
    answer(
      api.GET('/api/v1/meters/{code}/alarms', {
        params: { path: { code: props.meter }, query: { period: period.value } },
      }),
    ),
})

function held(alarm: AlarmRow): string {
  const by = alarm.held_by
  if (!by) return ''
  if (by.kind === 'raise_interval')
    return `work ${by.work_order} was raised shortly before, until ${dateTime(by.until)}`
  if (by.kind === 'shelf') return `shelved until ${dateTime(by.until)}: ${by.reason}`
  return 'the asset is out of use'
}
</script>

<template>
  <section v-if="data?.length">
    <h2>Alarms in the period</h2>
    <table class="ledger">
      <thead>
        <tr>
          <th>Severity</th>
          <th class="num">Reading</th>
          <th>Entered</th>
          <th>Left</th>
          <th>Response</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="alarm in data" :key="alarm.id" data-test="meter-alarm">
          <td><SeverityStrokes :severity="alarm.severity" word /> {{ alarm.side }}</td>
          <td class="num">{{ alarm.shown }}</td>
          <td>{{ dateTime(alarm.entered_at) }}</td>
          <td>
            {{ alarm.left_at ? dateTime(alarm.left_at) : 'still standing' }}
            <span v-if="alarm.left_by === 'limits_changed'" class="quiet small">limits changed</span>
          </td>
          <td>
            {{ responseWords[alarm.response] }}
            <RouterLink v-if="alarm.work_order" :to="to(`/work/${alarm.work_order}`)" class="in-text">{{
              alarm.work_order
            }}</RouterLink>
            <span v-if="alarm.held_by" class="quiet small">{{ held(alarm) }}</span>
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
</style>
