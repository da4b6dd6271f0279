<script setup lang="ts">
import MoreRows from '../common/ledger/MoreRows.vue'
import { workOrders } from './queries/orders'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { whole, hours, money } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useSearch } from '../common/useSearch'
import RaiseForm from './RaiseForm.vue'
import SeveralBar from './SeveralBar.vue'
import WorkDetailPane from './WorkDetailPane.vue'
import WorkFacets from './WorkFacets.vue'
import WorkNav from './WorkNav.vue'
import WorkTable from './WorkTable.vue'
import { raiseFrom } from './raised'
import { useWorkFilter } from './useWorkFilter'

defineProps<{
  /** Of the order shown beside the list. */
  number?: string
}>()

const { read, change, stay } = useAddress()
const raising = computed({
  get: () => read('raise') !== '',
  set: (on) => change({ raise: on ? 'yes' : '' }),
})
const from = computed(() => raiseFrom(read('raise')))
const text = useSearch()

const { state, order, filter } = useWorkFilter()
const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage, isPending } = useInfiniteQuery(() => ({
  ...workOrders(filter.value),
  placeholderData: keepPreviousData,
}))
const orders = computed(() => data.value?.pages.flatMap((page) => page.work_orders) ?? [])
const totals = computed(() => data.value?.pages[0]?.totals)
const facets = computed(() => data.value?.pages[0]?.facets)
const mayPlan = computed(() => data.value?.pages[0]?.may_plan ?? false)
const mayRaise = computed(() => data.value?.pages[0]?.may_raise ?? false)
const selected = ref(new Set<string>())
const chosen = computed(() => [...selected.value].map(Number))
// What is no longer listed is not chosen.
watch(
  () => JSON.stringify(filter.value),
  () => (selected.value = new Set()),
)
</script>

<template>
  <div class="screen" :class="{ beside: number }">
    <WorkNav v-if="!number" />
    <section class="list" :class="{ 'no-print': number }" aria-label="Work orders">
      <div class="head">
        <h1 v-if="totals" data-test="totals">
          {{ whole(totals.count) }}
          {{ state === 'open' ? 'open ' : '' }}{{ totals.count === 1 ? 'work order' : 'work orders' }}
        </h1>
        <div v-if="!number" class="tools no-print">
          <RouterLink :to="stay('/work/sheet')" class="act" data-test="on-paper">To take along</RouterLink>
          <ElButton v-if="mayRaise" data-test="raise-work" @click="raising = true">Raise work</ElButton>
        </div>
      </div>
      <p v-if="totals" class="quiet totals">
        {{ hours(totals.estimated_hours) }} h estimated · {{ hours(totals.spent_hours) }} h spent ·
        {{ money(totals.cost) }} {{ installation.currency }} ·
        <button
          class="plain"
          :class="{ late: totals.past_window }"
          @click="change({ past: read('past') ? '' : 'yes' })"
        >
          {{ totals.past_window }} past {{ totals.past_window === 1 ? 'its' : 'their' }} window
        </button>
        <template v-if="read('past')"> (only these)</template> ·
        <button
          class="plain"
          :class="{ late: totals.over_limit }"
          data-test="over-limit"
          @click="change({ over: read('over') ? '' : 'yes' })"
        >
          {{ totals.over_limit }} over the limit of {{ totals.over_limit === 1 ? 'its' : 'their' }} state
        </button>
        <template v-if="read('over')"> (only these)</template>
        <template v-if="totals.late_waiting || read('chase')">
          ·
          <button
            class="plain"
            :class="{ late: totals.late_waiting }"
            data-test="chase"
            title="Work that waits, and should have got what it waits for by now"
            @click="change({ chase: read('chase') ? '' : 'yes' })"
          >
            {{ totals.late_waiting }} to chase
          </button>
          <template v-if="read('chase')"> (only these)</template>
        </template>
      </p>
      <WorkFacets
        v-if="facets"
        :facets="facets"
        :state="state"
        :folded="number !== undefined && number !== ''"
      >
        <input
          v-model="text"
          class="line"
          type="search"
          placeholder="Number, title or asset"
          aria-label="Filter work"
        />
      </WorkFacets>
      <ProblemNote :error="error" />
      <SeveralBar
        v-if="chosen.length && !number"
        :orders="chosen"
        @done="selected = new Set()"
        @none="selected = new Set()"
      />
      <WorkTable
        v-if="orders.length"
        v-model:order="order"
        v-model:selected="selected"
        :selects="mayPlan"
        :orders="orders"
        :compact="number !== undefined && number !== ''"
        :chosen="number"
      />
      <EmptyState v-else-if="!isPending && !error" title="No work fits these filters">
        Take a filter away, choose another asset in the tree, or raise work.
      </EmptyState>
      <MoreRows :more="hasNextPage" :busy="isFetchingNextPage" @more="fetchNextPage()" />
    </section>
    <WorkDetailPane v-if="number" :key="number" :number="Number(number)" class="detail" />
    <RaiseForm
      v-if="raising"
      :key="read('raise')"
      :from="from"
      :brief="data?.pages[0]?.raises_briefly"
      @close="raising = false"
    />
  </div>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-columns: 268px minmax(0, 1fr);
  gap: 26px;
}

.tools {
  display: flex;
  gap: 16px;
  align-items: center;
}

.totals {
  margin: 3px 0 12px;
}

.late {
  color: var(--worse);
  font-weight: 600;
}

.beside h1 {
  font-size: 19px;
}

.beside .totals {
  font-size: 13px;
}

@media (max-width: 1000px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }

  .beside .list {
    display: none;
  }
}
</style>
