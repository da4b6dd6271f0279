<script setup lang="ts">
import { familyForecast } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type Ladder, type MeterForecast } from '../common/api'
import { ago, date, evenly, unit as shown } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { usePaced } from '../common/usePaced'
import { rungName } from './ladder'

const props = defineProps<{
  /** Code of the equipment class. */
  equipmentClass: string
  name: string
  unit: string
  ladder: Ladder
}>()
const { period, to } = useAddress()
const { asked, follow } = usePaced(computed(() => JSON.stringify(props.ladder)))
const { data, error, isFetching } = useQuery(() => ({
  ...familyForecast(props.equipmentClass, props.name, {
    period: period.value,
    ladder: JSON.parse(asked.value) as Ladder,
  }),
  placeholderData: keepPreviousData,
  retry: false,
}))
follow(isFetching)
/** Those that somebody is on the way to. */
const rungs = computed(() =>
  props.ladder.rungs
    .map((rung, place) => ({ rung, place }))
    .filter(({ place }) => data.value?.some((one) => one.reached.some((reached) => reached.rung === place))),
)
function reachedAt(one: MeterForecast, place: number): string {
  const reached = one.reached.find((reached) => reached.rung === place)
  return reached ? date(reached.at) : ''
}
const alike = computed(() => evenly((data.value ?? []).map((one) => one.slope * 30)))
</script>

<template>
  <section aria-label="Forecast" data-test="family-forecast">
    <ProblemNote v-if="!data" :error="error" />
    <template v-if="data">
      <p class="verdict">
        {{ data.length }} {{ data.length === 1 ? 'meter is' : 'meters are' }} on the way to a rung<template
          v-if="data[0]"
          >, the first {{ ago(data[0].reached[0]!.at, now) }}</template
        >.
      </p>
      <table v-if="data.length" class="ledger">
        <thead>
          <tr>
            <th>Meter</th>
            <th class="num">{{ shown(unit) }} in 30 days</th>
            <th v-for="{ rung, place } in rungs" :key="place" class="num">
              <SeverityStrokes :severity="rung.severity" /> {{ rungName(rung) }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.slice(0, 25)" :key="one.meter">
            <td>
              <RouterLink :to="to(`/watch/${one.meter}`, { panel: 'forecast' })">{{
                one.asset.name
              }}</RouterLink>
              <span class="quiet small code">{{ one.meter }}</span>
            </td>
            <td class="num">{{ alike(one.slope * 30) }}</td>
            <td v-for="{ place } in rungs" :key="place" class="num">{{ reachedAt(one, place) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet small">
        By a robust line through each meter’s readings of the period; open a meter for its interval.
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 16px;
}

.code {
  white-space: nowrap;
}
</style>
