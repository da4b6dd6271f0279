<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { useOrder } from '../common/ledger/useOrder'
import { families } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { unit, whole } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import WatchNav from './WatchNav.vue'

const { scope, to } = useAddress()
const { data, error } = useQuery(() => ({ ...families(scope.value), placeholderData: keepPreviousData }))
const without = computed(() => (data.value ?? []).filter((family) => !family.has_ladder).length)

const order = useOrder()
type Family = NonNullable<typeof data.value>[number]
const columns: LedgerColumn<Family>[] = [
  { key: 'family', name: 'Family', by: (row) => `${row.class_name}: ${row.name}`, lead: true },
  { key: 'unit', name: 'Unit', text: (row) => unit(row.unit) },
  { key: 'meters', name: 'Meters', text: (row) => whole(row.meters), by: (row) => row.meters, num: true },
  {
    key: 'with',
    name: 'With limits',
    text: (row) => some(row.with_limits),
    by: (row) => row.with_limits,
    num: true,
  },
  { key: 'written', name: 'Family’s limits', text: (row) => (row.has_ladder ? 'written' : '') },
  {
    key: 'deviating',
    name: 'Deviating',
    text: (row) => some(row.deviating),
    by: (row) => row.deviating,
    num: true,
  },
]
/** A count, where there is any. */
const some = (count: number) => (count ? whole(count) : '')
</script>

<template>
  <WatchNav />
  <ProblemNote :error="error" />
  <template v-if="data?.length">
    <h1>{{ data.length }} families of meters, {{ without }} without limits of their own</h1>
    <p class="quiet">
      Meters of one name on assets of one equipment class. Write their limits once; meters that need others
      keep theirs, and are marked.
    </p>
    <LedgerTable
      v-model:order="order"
      :columns="columns"
      :rows="data"
      :key-of="(row) => `${row.class} ${row.name}`"
      label="Families"
      test="family"
    >
      <template #family="{ row }">
        <RouterLink :to="to(`/families/${row.class}/${encodeURIComponent(row.name)}`)" data-row>
          {{ row.class_name }}: {{ row.name }}
        </RouterLink>
      </template>
    </LedgerTable>
  </template>
  <EmptyState v-else-if="data" title="No families here">
    A family is two or more meters of one name on assets of one equipment class. Give assets a class and their
    meters the same name, in <RouterLink :to="to('/setup/meters')">Setup</RouterLink>.
  </EmptyState>
</template>
