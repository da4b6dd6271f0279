<script setup lang="ts">
import MoreRows from '../common/ledger/MoreRows.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
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
import MeterLeft from './MeterLeft.vue'
import Sparkline from '../common/chart/Sparkline.vue'
import type { MeterRow } from '../common/api'
import { ago, dateTime, reading } from '../common/format'
import { now } from '../common/installation'
import StandingAlarms from './StandingAlarms.vue'
import WatchNav from './WatchNav.vue'

const { scope, period, read, to } = useAddress()
const client = useQueryClient()
const text = useSearch()
/** As the address has it. */
const asked = computed(() => read('text'))

const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage, isPending } = useInfiniteQuery(() => ({
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

const columns: LedgerColumn<MeterRow>[] = [
  { key: 'severity', name: 'Severity', unseen: true, width: '38px' },
  { key: 'meter', name: 'Meter', lead: true },
  { key: 'spark', name: 'In the period' },
  {
    key: 'last',
    name: 'Last reading',
    text: (row) => (row.last ? reading(row.last.value, row.unit, row.grades) : 'never read'),
    num: true,
  },
  { key: 'left', name: 'Left to the nearest limit' },
  { key: 'read', name: 'Read', num: true },
]
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
  <LedgerTable
    v-if="meters.length"
    class="middle"
    served
    :columns="columns"
    :rows="meters"
    :key-of="(row) => row.code"
    label="Meters"
  >
    <template #severity="{ row }"
      ><SeverityStrokes v-if="row.worst_severity" :severity="row.worst_severity"
    /></template>
    <template #meter="{ row }">
      <RouterLink :to="to(`/watch/${row.code}`)" class="name" data-test="meter" data-row>{{
        row.name
      }}</RouterLink>
      <div class="quiet small">{{ row.asset.name }} · {{ row.asset.code }}</div>
    </template>
    <template #spark="{ row }"><Sparkline v-if="row.spark?.length" :values="row.spark" /></template>
    <template #left="{ row }"><MeterLeft :meter="row" /></template>
    <template #read="{ row }">
      <span v-if="row.last" class="small quiet" :title="dateTime(row.last.at)">{{
        ago(row.last.at, now)
      }}</span>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="!isPending && asked" title="No meter has that in its name">
    Filter by a part of a code, a name or an asset’s name, or widen the scope in the tree.
  </EmptyState>
  <EmptyState v-else-if="!isPending && !error" title="No meters here yet">
    A meter is something read on an asset. <RouterLink :to="to('/setup/meters/new')">Add one</RouterLink> or
    <RouterLink :to="to('/setup/files/meters')">import them from a file</RouterLink>, then send its readings.
  </EmptyState>
  <MoreRows :more="hasNextPage" :busy="isFetchingNextPage" says="Show more meters" @more="fetchNextPage()" />
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

.name {
  font-weight: 600;
}

.middle :deep(td) {
  vertical-align: middle;
  padding-block: 4px;
}
</style>
