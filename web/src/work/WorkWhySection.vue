<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import type { WorkDetail } from '../common/api'
import { dateTime, plain, unit } from '../common/format'
import { isCut } from '../common/offline/network'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { heldWords, leftWords, responseWords } from '../common/alarms'

/** A chart is much to load for whoever reads the sentence beside it. */
const MomentChart = defineAsyncComponent(() => import('./MomentChart.vue'))
const props = defineProps<{ why: NonNullable<WorkDetail['why']>; number: number }>()
const { to } = useAddress()
const first = computed(() => props.why.occurrences[0])
/** What the alarm that raised it answered, until it raised this. */
const answers = computed(() => {
  const alarm = first.value
  if (!alarm) return []
  const all = [
    ...alarm.earlier,
    {
      at: alarm.answered_at,
      response: alarm.response,
      work_order: alarm.work_order,
      held_by: alarm.held_by,
      after_work: alarm.after_work,
    },
  ]
  return all.slice(0, all.findIndex((answer) => answer.work_order === props.number) + 1)
})
function said(answer: (typeof answers.value)[number], index: number): string {
  const after = answer.after_work ? `still beyond after work ${answer.after_work}` : 'still entered'
  const words = `${index ? `${after}, ` : ''}${responseWords[answer.response]}`
  const held = heldWords(answer)
  const own = answer.work_order === props.number ? ', this one' : ''
  return `${dateTime(answer.at)}: ${words}${held && `, ${held}`}${own}`
}
const rung = computed(() =>
  props.why.ladder.rungs.find(
    (one) => one.severity === first.value?.severity && one.side === first.value.side,
  ),
)
</script>

<template>
  <section v-if="first" class="why" data-test="work-why">
    <h2>Why this work exists</h2>
    <div class="sides">
      <div>
        <p>
          <RouterLink :to="to(`/watch/${why.meter}`)">{{ why.meter_name }}</RouterLink> read
          <strong>{{ first.shown }}</strong> and entered the
          <SeverityStrokes :severity="first.severity" word /> {{ first.side }} rung<template
            v-if="rung?.setpoint != null"
          >
            at {{ plain(rung.setpoint) }} {{ unit(why.unit) }}</template
          >
          on {{ dateTime(first.entered_at) }}, as set in version {{ why.ladder_version }} of the limits.
        </p>
        <ul v-if="answers.length > 1" class="small" data-test="answers">
          <li v-for="(answer, index) in answers" :key="answer.at">
            {{ said(answer, index) }}
            <RouterLink
              v-if="answer.work_order && answer.work_order !== number && !answer.held_by"
              :to="to(`/work/${answer.work_order}`)"
              class="in-text"
              >{{ answer.work_order }}</RouterLink
            >
          </li>
        </ul>
        <p v-if="leftWords[first.left_by ?? '']" class="quiet">
          That alarm is over: {{ leftWords[first.left_by ?? ''] }}.
        </p>
        <p v-if="rung?.cause" class="quiet">Likely cause: {{ rung.cause }}.</p>
        <ul v-if="why.occurrences.length > 1" class="small">
          <li v-for="alarm in why.occurrences" :key="alarm.id">
            <SeverityStrokes :severity="alarm.severity" /> {{ alarm.shown }},
            {{ dateTime(alarm.entered_at) }}: {{ responseWords[alarm.response]
            }}<template v-if="leftWords[alarm.left_by ?? '']"
              >; {{ leftWords[alarm.left_by ?? ''] }}</template
            >
          </li>
        </ul>
      </div>
      <MomentChart
        v-if="!isCut"
        :meter="why.meter"
        :at="first.entered_at"
        :rungs="why.ladder.rungs"
        :unit="unit(why.unit)"
      />
    </div>
  </section>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}

p {
  margin: 8px 0 0;
}

ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}

@media (max-width: 1000px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
