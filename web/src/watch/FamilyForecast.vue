<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api, type Ladder } from '../common/api'
import { ago, date, plain, unit as shown } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { usePaced } from '../common/usePaced'

const props = defineProps<{
  /** Code of the equipment class. */
  equipmentClass: string
  name: string
  unit: string
  ladder: Ladder
}>()
const { period, to } = useAddress()
const { asked, follow } = usePaced(computed(() => JSON.stringify(props.ladder)))
const { data, error, isFetching } = useQuery({
  queryKey: ['forecast', 'family', () => props.equipmentClass, () => props.name, period, asked],
  queryFn: () =>
    answer(
      api.POST('/api/v1/families/{class}/{name}/forecast', {
        params: { path: { class: props.equipmentClass, name: props.name } },
        body: { period: period.value, ladder: JSON.parse(asked.value) as Ladder },
      }),
    ),
  placeholderData: (before) => before,
  retry: false,
})
follow(isFetching)
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
            <th>Reaches</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.slice(0, 25)" :key="one.meter">
            <td>
              <RouterLink :to="to(`/watch/${one.meter}`, { panel: 'forecast' })">{{
                one.asset.name
              }}</RouterLink>
              <span class="quiet small">{{ one.meter }}</span>
            </td>
            <td class="num">{{ plain(one.slope * 30) }}</td>
            <td>
              <span v-for="reached in one.reached" :key="reached.rung" class="reached">
                <SeverityStrokes :severity="ladder.rungs[reached.rung]?.severity" /> {{ date(reached.at) }}
              </span>
            </td>
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

.reached {
  margin-right: 18px;
  white-space: nowrap;
}
</style>
