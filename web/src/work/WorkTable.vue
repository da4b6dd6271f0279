<script setup lang="ts">
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
  sort: string
  descending: boolean
}>()
const emit = defineEmits<{ sort: [column: string] }>()
const { stay } = useAddress()

/** The list's filters stay in the address beside an open order. */
const link = (number: number) => stay(`/work/${number}`)

const columns = [
  { key: 'number', name: 'Number', sorts: true },
  { key: 'title', name: 'Work', sorts: false },
  { key: 'state', name: 'State', sorts: false },
  { key: 'rank', name: 'Rank', sorts: true },
  { key: 'window_end', name: 'Window', sorts: true },
  { key: 'spent', name: 'Hours', sorts: true, num: true },
  { key: 'cost', name: 'Cost', sorts: true, num: true },
]
</script>

<template>
  <ul v-if="compact">
    <li v-for="order in orders" :key="order.number">
      <RouterLink :to="link(order.number)" :class="{ here: String(order.number) === chosen }" data-row>
        <span class="quiet small">
          {{ order.number }} · {{ stateWords[order.state] }}
          <span v-if="order.past_window" class="late">past its window</span>
        </span>
        {{ order.title }}
      </RouterLink>
    </li>
  </ul>
  <table v-else class="ledger">
    <thead>
      <tr>
        <th
          v-for="column in columns"
          :key="column.key"
          :class="{ num: column.num }"
          :aria-sort="sort === column.key ? (descending ? 'descending' : 'ascending') : undefined"
        >
          <button v-if="column.sorts" class="plain" @click="emit('sort', column.key)">
            {{ column.name }}<template v-if="sort === column.key">{{ descending ? ' ↓' : ' ↑' }}</template>
          </button>
          <template v-else>{{ column.name }}</template>
          <span v-if="column.key === 'cost'" class="unit">{{ installation.currency }}</span>
          <span v-if="column.key === 'spent'" class="unit">spent / est.</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="order in orders" :key="order.number" data-test="order">
        <td>{{ order.number }}</td>
        <td class="title">
          <RouterLink :to="link(order.number)" data-row>{{ order.title }}</RouterLink>
          <div class="quiet small">
            {{ order.asset.name }} · {{ order.asset.code }} · {{ kindWords[order.kind] }}
            <template v-if="order.source_severity">
              · raised by a limit <SeverityStrokes :severity="order.source_severity" />
            </template>
          </div>
        </td>
        <td>
          {{ stateWords[order.state] }}
          <span v-if="order.waiting_for">for {{ order.waiting_for }}</span>
          <div class="small" :class="order.over_limit ? 'late' : 'quiet'">
            {{ ago(order.state_since, now) }}<template v-if="order.over_limit">, over the limit</template>
          </div>
        </td>
        <td>{{ order.risk_rank }}</td>
        <td>
          <span :class="{ late: order.past_window }">{{ date(order.window_end) }}</span>
          <div v-if="order.past_window" class="late small">past its window</div>
        </td>
        <td class="num">
          {{ hours(order.spent_hours) }}
          <span class="quiet"
            >/ {{ order.estimated_hours == null ? '–' : hours(order.estimated_hours) }}</span
          >
        </td>
        <td class="num">{{ moneyShort(order.cost) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.title a {
  font-weight: 600;
}

.late {
  color: var(--worse);
}

.unit {
  display: block;
  font-weight: 400;
  font-size: 12px;
}

td:nth-child(3),
td:nth-child(5) {
  white-space: nowrap;
}

th .plain {
  font-weight: 600;
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
