<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { familyForecast } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type Ladder, type MeterForecast } from '../common/api'
import { ago, date, evenly, unit as shown } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
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
const alike = computed(() => evenly((data.value ?? []).map((one) => one.slope * 30)))

const reachedIn = (one: MeterForecast, place: number) => one.reached.find((reached) => reached.rung === place)
const columns = computed<LedgerColumn<MeterForecast>[]>(() => [
  { key: 'meter', name: 'Meter', by: (one) => one.asset.name, lead: true },
  {
    key: 'slope',
    name: `${shown(props.unit)} in 30 days`,
    text: (one) => alike.value(one.slope * 30),
    by: (one) => one.slope,
    num: true,
  },
  ...rungs.value.map(({ rung, place }) => ({
    key: `rung-${place}`,
    name: rungName(rung),
    text: (one: MeterForecast) => {
      const reached = reachedIn(one, place)
      return reached ? date(reached.at) : ''
    },
    by: (one: MeterForecast) => reachedIn(one, place)?.at,
    num: true,
  })),
])
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
      <LedgerTable
        v-if="data.length"
        :columns="columns"
        :rows="data"
        :key-of="(one) => one.meter"
        label="When each meter reaches a rung"
      >
        <template #meter="{ row }">
          <RouterLink :to="to(`/watch/${row.meter}`, { panel: 'forecast' })" data-row>{{
            row.asset.name
          }}</RouterLink>
          <span class="quiet small code">{{ row.meter }}</span>
        </template>
      </LedgerTable>
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
