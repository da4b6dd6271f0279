<script setup lang="ts">
import { useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { type WorkRow } from '../common/api'
import { date, hours, stateWords, whole } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { asset } from '../common/queries/plant'
import { useAddress } from '../common/useAddress'
import { workOrders } from './queries/orders'
import { useWorkFilter } from './useWorkFilter'

/** Work to take along where there is no screen, with room to write down what was done. */
const { scope, stay } = useAddress()
const { state, filter } = useWorkFilter()
const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery(() => workOrders(filter.value))
const orders = computed(() => data.value?.pages.flatMap((page) => page.work_orders) ?? [])
const total = computed(() => data.value?.pages[0]?.totals.count ?? 0)
const of = useQuery(() => ({ ...asset(scope.value), enabled: scope.value !== '' }))
const columns: LedgerColumn<WorkRow>[] = [
  { key: 'number', name: 'Number', text: (row) => String(row.number), nowrap: true },
  { key: 'work', name: 'Work', lead: true },
  { key: 'rank', name: 'Rank', text: (row) => String(row.risk_rank), num: true },
  { key: 'window', name: 'Window', text: (row) => date(row.window_end), nowrap: true },
  { key: 'estimated', name: 'Est. h', text: (row) => hours(row.estimated_hours ?? 0), num: true },
  { key: 'hours', name: 'Hours', width: '70px' },
  { key: 'done', name: 'Found and done', width: '30%' },
]
</script>

<template>
  <h1 data-test="sheet-total">
    {{ whole(total) }} {{ state === 'open' ? 'open ' : '' }}{{ total === 1 ? 'work order' : 'work orders'
    }}<template v-if="of.data.value">, {{ of.data.value.name }}</template>
  </h1>
  <p v-if="orders.length" class="no-print">
    <RouterLink :to="stay('/work/sheets')" class="act" data-test="each-on-its-page">
      Each order on a page of its own
    </RouterLink>
  </p>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="orders.length"
    class="sheet"
    served
    :columns="columns"
    :rows="orders"
    :key-of="(row) => row.number"
    label="Work to take along"
    test="sheet-row"
  >
    <template #work="{ row }">
      <RouterLink :to="stay(`/work/${row.number}`)">{{ row.title }}</RouterLink>
      <div class="quiet small">{{ row.asset.name }} · {{ row.asset.code }} · {{ stateWords[row.state] }}</div>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="data" title="No work fits these filters">
    <RouterLink :to="stay('/work')">Choose others.</RouterLink>
  </EmptyState>
  <p v-if="hasNextPage" class="no-print">
    <button class="act" @click="fetchNextPage()">{{ orders.length }} of {{ whole(total) }}: add more</button>
  </p>
</template>

<style scoped>
h1 {
  margin-bottom: 10px;
}

.sheet :deep(td) {
  height: 44px;
  border-right: 1px solid var(--rule);
}

@container screen (max-width: 620px) {
  .sheet :deep(td) {
    height: auto;
    border-right: 0;
  }
}
</style>
