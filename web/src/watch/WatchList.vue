<script setup lang="ts">
import { meters as metersAsked } from './queries/meters'
import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { alarms as alarmsAsked } from '../common/queries/watch'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { severities } from '../generated/words'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useSearch } from '../common/useSearch'
import MeterLine from './MeterLine.vue'
import StandingAlarms from './StandingAlarms.vue'
import WatchNav from './WatchNav.vue'

const { scope, period, read, to } = useAddress()
const client = useQueryClient()
const text = useSearch()
/** As the address has it. */
const asked = computed(() => read('text'))

const { data, error, fetchNextPage, hasNextPage, isPending } = useInfiniteQuery(() => ({
  ...metersAsked(scope.value, period.value, asked.value),
  placeholderData: keepPreviousData,
}))
const meters = computed(() => data.value?.pages.flatMap((page) => page.meters) ?? [])
const first = computed(() => data.value?.pages[0])
const counts = computed(() =>
  severities
    .map((severity, index) => ({ severity, count: first.value?.by_severity[index] ?? 0 }))
    .filter((one) => one.count)
    .reverse(),
)

const alarms = useQuery(() => alarmsAsked(scope.value))
</script>

<template>
  <WatchNav />
  <div class="head">
    <div>
      <h1 v-if="counts.length">
        <template v-for="(one, index) in counts" :key="one.severity">
          {{ index ? ', ' : '' }}{{ one.count }} {{ one.count === 1 ? 'meter' : 'meters' }} at
          <SeverityStrokes :severity="one.severity" word />
        </template>
      </h1>
      <h1 v-else-if="first?.total">Nothing stands past a limit</h1>
      <p v-if="first?.total" class="quiet">
        {{ first.total }} {{ first.total === 1 ? 'meter' : 'meters' }}, the nearest to a limit first
      </p>
    </div>
    <div class="tools">
      <input
        v-model="text"
        class="line"
        type="search"
        placeholder="Filter meters"
        aria-label="Filter meters"
      />
      <RouterLink :to="to('/setup/files/readings')" class="press">Import readings</RouterLink>
    </div>
  </div>
  <ProblemNote :error="error" />
  <StandingAlarms
    v-if="alarms.data.value?.alarms.length"
    :alarms="alarms.data.value.alarms"
    @seen="client.invalidateQueries()"
  />
  <table v-if="meters.length" class="ledger">
    <thead>
      <tr>
        <th class="mark"><span class="unseen">Severity</span></th>
        <th>Meter</th>
        <th>In the period</th>
        <th class="num">Last reading</th>
        <th>Left to the nearest limit</th>
        <th class="num">Read</th>
      </tr>
    </thead>
    <tbody>
      <MeterLine v-for="meter in meters" :key="meter.code" :meter="meter" />
    </tbody>
  </table>
  <EmptyState v-else-if="!isPending && asked" title="No meter has that in its name">
    Filter by a part of a code, a name or an asset’s name, or widen the scope in the tree.
  </EmptyState>
  <EmptyState v-else-if="!isPending && !error" title="No meters here yet">
    A meter is something read on an asset. <RouterLink :to="to('/setup/meters/new')">Add one</RouterLink> or
    <RouterLink :to="to('/setup/files/meters')">import them from a file</RouterLink>, then send its readings.
  </EmptyState>
  <p v-if="hasNextPage"><button class="act" @click="fetchNextPage()">Show more meters</button></p>
</template>

<style scoped>
.head p {
  margin: 3px 0 0;
}

.tools {
  display: flex;
  gap: 10px;
}

.tools input {
  width: 180px;
}

.mark {
  width: 38px;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>
