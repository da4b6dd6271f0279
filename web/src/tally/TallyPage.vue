<script setup lang="ts">
import { figures, indicators } from '../common/queries/tally'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { type TallyRow } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import { date, hours, moneyShort } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import TallyBranch from './TallyBranch.vue'
import { columns, sorter } from './columns'
import { FROM_ROOT } from './way'

const { scope, period, read, change } = useAddress()
const print = () => window.print()
const basis = computed(() => (read('basis') === 'as_is' ? 'as_is' : 'as_was'))
const sort = computed(() => read('by'))
const descending = computed(() => read('desc') === 'yes')
const openRows = ref(new Set<string>())

const catalogue = useQuery(indicators())
const shown = computed(() => columns(catalogue.data.value ?? []))

const { data, error } = useQuery(() => ({
  ...figures({ scope: scope.value || undefined, period: period.value, basis: basis.value, depth: 1 }),
  placeholderData: keepPreviousData,
}))
const tops = computed(() => data.value?.rows.filter((row) => row.depth === 0) ?? [])
const below = (row: TallyRow) =>
  row.kind === 'asset'
    ? (data.value?.rows.filter((other) => other.parent === row.asset && other.depth === 1) ?? [])
    : []
const headline = computed(() => {
  const top = tops.value.length === 1 ? tops.value[0] : undefined
  if (!top) return ''
  const cost = top.figures.cost_total?.value ?? 0
  const down = top.figures.unplanned_downtime?.value ?? 0
  return `${top.name}: ${moneyShort(cost)} ${installation.value.currency} and ${hours(down)} h of unplanned downtime`
})
const byName = computed(() => sorter(sort.value, descending.value))

function sortBy(id: string) {
  // The greatest first, then the least first, then by name again.
  if (sort.value !== id) change({ by: id, desc: 'yes' })
  else if (descending.value) change({ desc: '' })
  else change({ by: '', desc: '' })
}
</script>

<template>
  <div class="head">
    <div>
      <h1>{{ headline || 'Tally' }}</h1>
      <p v-if="data" class="quiet">
        {{ date(data.span.start) }} – {{ date(Date.parse(data.span.end) - 1)
        }}<template v-if="data.before"
          >, against {{ date(data.before.start) }} – {{ date(Date.parse(data.before.end) - 1) }}</template
        >. Press a figure to see the rows that make it.
      </p>
    </div>
    <button class="act no-print" @click="print()">Print</button>
    <label class="small basis no-print">
      <input
        type="checkbox"
        :checked="basis === 'as_is'"
        @change="change({ basis: basis === 'as_is' ? '' : 'as_is' })"
      />
      count by today’s tree
    </label>
  </div>
  <ProblemNote :error="error" />
  <div v-if="tops.length && shown.length" class="wide on-wide-paper">
    <table class="ledger tally">
      <thead>
        <tr>
          <th>Asset</th>
          <th
            v-for="column in shown"
            :key="column.id"
            class="num"
            :title="column.formula"
            :aria-sort="sort === column.id ? (descending ? 'descending' : 'ascending') : undefined"
          >
            <button class="plain" @click="sortBy(column.id)">
              {{ column.short }}<template v-if="sort === column.id">{{ descending ? ' ↓' : ' ↑' }}</template>
            </button>
            <span class="unit">{{ column.unitShown }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <TallyBranch
          v-for="row in tops"
          :key="row.kind + row.asset"
          v-model:open-rows="openRows"
          :row="row"
          :children="below(row)"
          :columns="shown"
          :basis="basis"
          :depth="0"
          :under="scope ? '' : FROM_ROOT"
          :order="byName"
        />
      </tbody>
    </table>
  </div>
  <EmptyState v-else-if="data && !tops.length" title="There is nothing to add up yet">
    The tally is the asset tree with its figures. Add assets first; costs, downtime and failures come from the
    work on them.
  </EmptyState>
</template>

<style scoped>
.wide {
  container-type: inline-size;
  overflow-x: auto;
  /* What is brought into sight does not come to lie below the names, which stay. */
  scroll-padding-left: min(260px, 60%);
}

.head p {
  margin: 3px 0 0;
}

.basis {
  white-space: nowrap;
  margin-top: 8px;
}

.unit {
  display: block;
  font-weight: 400;
  font-size: 12px;
  min-height: 17px;
}

th .plain {
  font-weight: 600;
  text-align: right;
}
</style>
