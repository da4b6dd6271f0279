<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { type AlarmsNow } from '../common/api'
import { dateTime } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { severities } from '../generated/words'

/** What runs on by decision though a limit is crossed. */
defineProps<{ decisions: AlarmsNow['run_on'] }>()
const { to } = useAddress()
const columns: LedgerColumn<AlarmsNow['run_on'][number]>[] = [
  { key: 'severity', name: 'Severity', by: (row) => severities.indexOf(row.severity) },
  { key: 'meter', name: 'Meter', by: (row) => `${row.asset.name}: ${row.meter_name}`, lead: true },
  { key: 'work', name: 'Work', by: (row) => row.work_order, num: true },
  {
    key: 'until',
    name: 'Until',
    text: (row) => (row.until ? dateTime(row.until) : ''),
    by: (row) => row.until,
    nowrap: true,
  },
  { key: 'by', name: 'Decided by', text: (row) => row.answered_by ?? '' },
  { key: 'reason', name: 'Why', text: (row) => row.reason ?? '' },
]
</script>

<template>
  <LedgerTable
    v-if="decisions.length"
    :columns="columns"
    :rows="decisions"
    :key-of="(row) => row.id"
    label="Running on by decision"
    test="running-on"
  >
    <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
    <template #meter="{ row }">
      <RouterLink :to="to(`/watch/${row.meter}`)">{{ row.asset.name }}: {{ row.meter_name }}</RouterLink>
    </template>
    <template #work="{ row }">
      <RouterLink :to="to(`/work/${row.work_order}`)" data-row>{{ row.work_order }}</RouterLink>
    </template>
  </LedgerTable>
  <EmptyState v-else title="Nothing runs on by decision">
    Where a limit hands a decision up, whoever decides may let the asset run on until a date. It stands here
    until the limit is left, the work is done, or it gets worse.
  </EmptyState>
</template>
