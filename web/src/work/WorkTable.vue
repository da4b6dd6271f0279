<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn, LedgerOrder } from '../common/ledger/columns'
import type { WorkRow } from '../common/api'
import { ago, date, hours, kindWords, moneyShort, stateWords } from '../common/format'
import { installation, now } from '../common/installation'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'

defineProps<{
  orders: WorkRow[]
  /** Only what is needed beside an open order. */
  compact: boolean
  chosen?: string
  /** Several can be chosen, to be changed at once. */
  selects: boolean
}>()
const { stay } = useAddress()

/** The list's filters stay in the address beside an open order. */
const link = (number: number) => stay(`/work/${number}`)

const order = defineModel<LedgerOrder>('order')
/** Numbers of the orders that are chosen. */
const selected = defineModel<Set<string>>('selected', { required: true })
const columns: LedgerColumn<WorkRow>[] = [
  { key: 'number', name: 'Number', text: (row) => String(row.number), sorts: true, wideOnly: true },
  { key: 'title', name: 'Work', lead: true },
  { key: 'state', name: 'State', nowrap: true },
  { key: 'rank', name: 'Rank', text: (row) => String(row.risk_rank), sorts: true },
  { key: 'window_end', name: 'Window', sorts: true, nowrap: true },
  { key: 'spent', name: 'Hours', unit: 'spent / est.', sorts: true, num: true, wideOnly: true },
  {
    key: 'cost',
    name: 'Cost',
    unit: installation.value.currency,
    text: (row) => moneyShort(row.cost),
    sorts: true,
    num: true,
    wideOnly: true,
  },
]
</script>

<template>
  <ul v-if="compact">
    <li v-for="one in orders" :key="one.number">
      <RouterLink :to="link(one.number)" :class="{ here: String(one.number) === chosen }" data-row>
        <span class="quiet small">
          {{ one.number }} · {{ stateWords[one.state] }}
          <span v-if="one.past_window" class="late">past its window</span>
        </span>
        {{ one.title }}
      </RouterLink>
    </li>
  </ul>
  <LedgerTable
    v-else
    v-model:order="order"
    v-model:selected="selected"
    :selects="selects ? (row) => `work ${row.number}` : undefined"
    served
    :columns="columns"
    :rows="orders"
    :key-of="(row) => row.number"
    label="Work orders"
    test="order"
  >
    <template #title="{ row }">
      <RouterLink :to="link(row.number)" class="title" data-row>{{ row.title }}</RouterLink>
      <div class="quiet small">
        {{ row.asset.name }} · {{ row.asset.code }} · {{ kindWords[row.kind] }}
        <template v-if="row.source_severity">
          · raised by a limit <SeverityStrokes :severity="row.source_severity" />
        </template>
      </div>
    </template>
    <template #state="{ row }">
      {{ stateWords[row.state] }}
      <span v-if="row.waiting_for">for {{ row.waiting_for }}</span>
      <div v-if="row.expected_until" class="small" :class="row.late_waiting ? 'late' : 'quiet'">
        expected {{ date(row.expected_until) }}
      </div>
      <div class="small" :class="row.over_limit ? 'late' : 'quiet'">
        {{ ago(row.state_since, now) }}<template v-if="row.over_limit">, over the limit</template>
      </div>
    </template>
    <template #window_end="{ row }">
      <span :class="{ late: row.past_window }">{{ date(row.window_end) }}</span>
      <div v-if="row.past_window" class="late small">past its window</div>
    </template>
    <template #spent="{ row }">
      {{ hours(row.spent_hours) }}
      <span class="quiet">/ {{ row.estimated_hours == null ? '–' : hours(row.estimated_hours) }}</span>
    </template>
  </LedgerTable>
</template>

<style scoped>
.title {
  font-weight: 600;
}

.late {
  color: var(--worse);
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li a {
  display: block;
  padding: 6px 8px;
  border-bottom: 1px solid var(--rule);
  color: var(--ink);
  font-size: 14px;
}

li a:hover {
  background: var(--paper-2);
  text-decoration: none;
}

li .here {
  background: var(--accent-soft);
}

li .quiet {
  display: block;
}
</style>
