<script setup lang="ts">
import { forecast } from './queries/meters'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { type ForecastView, type Ladder, type MeterDetail } from '../common/api'
import { ago, date, plain, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { usePaced } from '../common/usePaced'
import { slopeWords } from './forecast'
import GivenLines from './GivenLines.vue'
import type { View } from '../common/chart/geometry'
import { rungName } from './ladder'

const props = defineProps<{
  meter: MeterDetail
  /** The window the line is taken through: what the trend shows of the past. */
  view: View
  ladder: Ladder
}>()
/** What is drawn on the trend. */
const drawn = defineModel<ForecastView | undefined>('drawn', { required: true })

const { asked, follow } = usePaced(
  computed(() => ({
    from: props.view.from,
    to: Math.min(props.view.to, now.value),
    ladder: JSON.stringify(props.ladder),
  })),
)
const { data, error, isFetching } = useQuery(() => ({
  ...forecast(props.meter.code, {
    from: new Date(asked.value.from).toISOString(),
    to: new Date(asked.value.to).toISOString(),
    ladder: JSON.parse(asked.value.ladder) as Ladder,
  }),
  placeholderData: keepPreviousData,
  retry: false,
}))
follow(isFetching)
watch(data, (forecast) => (drawn.value = forecast), { immediate: true })

const slope = computed(() => (data.value?.line ? slopeWords(data.value.line, props.meter.unit) : ''))
</script>

<template>
  <section aria-label="Forecast" data-test="forecast">
    <h2 class="ruled">
      Where it is heading
      <span class="quiet small">by the stretch shown, {{ date(view.from) }} – {{ date(asked.to) }}</span>
    </h2>
    <ProblemNote :error="error" />
    <template v-if="data">
      <p v-if="data.line" class="verdict">{{ slope }}.</p>
      <p v-else class="quiet">A line needs at least three readings; zoom out to show more.</p>
      <p v-if="data.use_per_day != null">
        Used by {{ plain(data.use_per_day) }} {{ unit(meter.unit) }} a day on average.
      </p>
      <ul v-if="data.reached.length">
        <li v-for="one in data.reached" :key="one.rung" data-test="reached">
          <SeverityStrokes :severity="ladder.rungs[one.rung]?.severity" />
          <span>{{ ladder.rungs[one.rung] ? rungName(ladder.rungs[one.rung]!) : '' }}</span>
          <strong>{{ date(one.at) }}</strong>
          <span class="quiet">
            {{ ago(one.at, now) }}; between {{ one.earliest ? date(one.earliest) : 'now' }} and
            {{ one.latest ? date(one.latest) : 'never' }}
          </span>
        </li>
      </ul>
      <p v-else-if="data.line && ladder.rungs.length" class="quiet">It does not lead to any of the rungs.</p>
      <GivenLines :lines="data.assumptions" />
    </template>
  </section>
</template>

<style scoped>
section {
  margin-top: 16px;
}

ul {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 26px 110px 110px 1fr;
  gap: 8px;
  padding: 3px 0;
}
</style>
