<script setup lang="ts">
import { useInfiniteQuery, useQueries } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { count } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import OrderSheet from './OrderSheet.vue'
import { workOrder, workOrders } from './queries/orders'
import { useWorkFilter } from './useWorkFilter'

/** Orders to take along, each on a page of its own: those that the address names, else the first of those that fit its filters. */
const MOST = 60
const { read, stay } = useAddress()
const named = computed(() => read('orders').split(',').map(Number).filter(Boolean))
const { filter } = useWorkFilter()
const list = useInfiniteQuery(() => ({ ...workOrders(filter.value), enabled: !named.value.length }))
const all = computed(() =>
  named.value.length ? named.value : (list.data.value?.pages[0]?.work_orders ?? []).map((one) => one.number),
)
const total = computed(() =>
  named.value.length ? named.value.length : (list.data.value?.pages[0]?.totals.count ?? 0),
)
const numbers = computed(() => all.value.slice(0, MOST))
const orders = useQueries({ queries: computed(() => numbers.value.map((number) => workOrder(number))) })
const told = computed(() => orders.value.flatMap((one) => (one.data ? [one.data] : [])))
const error = computed(() => list.error.value ?? orders.value.find((one) => one.error)?.error ?? null)
</script>

<template>
  <p class="no-print quiet" data-test="sheets-total">
    {{ count(told.length, 'sheet', 'sheets')
    }}<template v-if="told.length < numbers.length"
      >, {{ numbers.length - told.length }} still to come</template
    ><template v-if="total > numbers.length"
      >, the first of {{ total }}: choose fewer to have them all</template
    >
  </p>
  <ProblemNote :error="error" />
  <OrderSheet v-for="work in told" :key="work.number" :work="work" />
  <EmptyState v-if="list.data.value && !numbers.length" title="No work fits these filters">
    <RouterLink :to="stay('/work')">Choose others.</RouterLink>
  </EmptyState>
</template>
