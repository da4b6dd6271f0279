<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import type { Schemas } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import { ago, count } from '../common/format'
import { now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import WorkNav from './WorkNav.vue'
import { decisions } from './queries/orders'

/** What waits for somebody's decision, the oldest first. */
const { to } = useAddress()
const { data, error } = useQuery(decisions())
type Row = Schemas['RiskDecision']
const columns: LedgerColumn<Row>[] = [
  { key: 'work', name: 'Work', by: (row) => row.title, lead: true },
  { key: 'severity', name: 'Severity', by: (row) => row.severity },
  { key: 'meter', name: 'Meter', text: (row) => row.meter_name },
  { key: 'asked', name: 'Whose', text: (row) => row.asked },
  { key: 'age', name: 'Asked', by: (row) => row.asked_at, nowrap: true },
]
</script>

<template>
  <div class="screen">
    <WorkNav />
    <h1>Decisions</h1>
    <ProblemNote :error="error" />
    <template v-if="data">
      <p class="says" data-test="decisions-say">
        <strong>{{
          data.mine ? `${count(data.mine, 'is', 'are')} yours to decide.` : 'None is yours to decide.'
        }}</strong>
        {{ count(data.open, 'is', 'are') }} open in all;
        <span :class="{ late: data.late }"
          >{{ data.late }} for longer than {{ count(data.within_days, 'day', 'days') }}</span
        >.
      </p>
      <LedgerTable
        v-if="data.decisions.length"
        :columns="columns"
        :rows="data.decisions"
        :key-of="(row) => row.id"
        label="Open decisions"
        test="open-decision"
      >
        <template #work="{ row }">
          <RouterLink :to="to(`/work/${row.work_order}`)" data-row>{{ row.title }}</RouterLink>
          <div class="quiet small">{{ row.asset.name }}</div>
        </template>
        <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
        <template #age="{ row }">
          <span :class="{ late: row.is_late }">{{ ago(row.asked_at, now) }}</span>
        </template>
      </LedgerTable>
      <EmptyState v-else title="Nothing waits for a decision">
        Limits that name who decides hand it up here, with the work.
      </EmptyState>
    </template>
  </div>
</template>

<style scoped>
.says {
  margin: 4px 0 14px;
}

.late {
  color: var(--worse);
  font-weight: 600;
}
</style>
