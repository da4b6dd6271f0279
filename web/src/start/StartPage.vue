<script setup lang="ts">
import { start } from './queries/start'
import { useQuery } from '@tanstack/vue-query'
import { dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import FirstSteps from './FirstSteps.vue'
import FirstMinute from './FirstMinute.vue'

const { data, error } = useQuery(start())
</script>

<template>
  <ProblemNote :error="error" />
  <p v-if="data?.ahead" class="ahead" role="alert" data-test="ahead">
    {{ data.ahead.meters === 1 ? 'A meter has' : `${data.ahead.meters} meters have` }} readings dated later
    than now, up to {{ dateTime(data.ahead.newest) }}: {{ data.ahead.first.join(', ')
    }}<template v-if="data.ahead.meters > data.ahead.first.length"> and others</template>. What they read now
    counts as late and raises nothing. Set the clock right, or void these readings.
  </p>
  <FirstMinute v-if="data && (data.risk || data.lesson)" :start="data" />
  <FirstSteps v-else-if="data" :counts="data.counts" />
</template>

<style scoped>
.ahead {
  max-width: 74ch;
  padding: 10px 14px;
  border-left: 3px solid var(--ink);
  background: var(--paper-2);
}
</style>
