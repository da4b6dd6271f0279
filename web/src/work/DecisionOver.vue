<script setup lang="ts">
import type { Schemas } from '../common/api'
import { dateTime } from '../common/format'

/** A decision that was answered: what was said, and what ended it where it let something run on. */
defineProps<{ decision: Schemas['RiskDecision'] }>()
const words: Record<Schemas['RiskAnswer'], string> = {
  do_now: 'do it now',
  run_on: 'run on',
  stop: 'stop it',
}
const ends: Record<Schemas['RunOnEnd'], string> = {
  withdrawn: 'It was withdrawn',
  left: 'It ended when the limit was left',
  limits_changed: 'It ended when the limits were changed',
  worse: 'It ended when a worse limit was crossed',
  work_over: 'It ended with the work',
  date: 'It ended on its date',
}
</script>

<template>
  <p data-test="decision-over">
    <template v-if="decision.answer && decision.answered_at">
      <strong>{{ decision.answered_by }} decided: {{ words[decision.answer] }}</strong
      ><template v-if="decision.until"> until {{ dateTime(decision.until) }}</template
      >, {{ dateTime(decision.answered_at)
      }}<template v-if="decision.reason">. {{ decision.reason }}</template>
      <span v-if="decision.ended && decision.ended_at" class="quiet small" data-test="decision-ended">
        {{ ends[decision.ended]
        }}<template v-if="decision.withdrawn_by"> by {{ decision.withdrawn_by }}</template
        >, {{ dateTime(decision.ended_at)
        }}<template v-if="decision.withdrawn_reason">: {{ decision.withdrawn_reason }}</template
        >.
      </span>
    </template>
    <template v-else>{{ decision.asked }} was asked to decide, and it was over before.</template>
  </p>
</template>

<style scoped>
p {
  margin: 4px 0;
}
</style>
