<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { severities } from '../generated/words'
import { meterAlarms } from './queries/meters'
import { useQuery } from '@tanstack/vue-query'
import { dateTime } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { afterWords, heldWords, leftWords, reached, responseWords } from '../common/alarms'

const props = defineProps<{
  /** Code. */
  meter: string
}>()
const { period, to } = useAddress()
const { data } = useQuery(() => meterAlarms(props.meter, { period: period.value }))

type Row = NonNullable<typeof data.value>[number]
const columns: LedgerColumn<Row>[] = [
  { key: 'severity', name: 'Severity', by: (row) => severities.indexOf(row.severity) },
  { key: 'found', name: 'Found', text: reached, lead: true },
  { key: 'entered', name: 'Entered', text: (row) => dateTime(row.entered_at), by: (row) => row.entered_at },
  { key: 'left', name: 'Left', by: (row) => row.left_at },
  { key: 'response', name: 'Response', by: (row) => responseWords[row.response] },
]
</script>

<template>
  <section v-if="data?.length">
    <h2>Alarms in the period</h2>
    <LedgerTable
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.id"
      label="Alarms in the period"
      test="meter-alarm"
    >
      <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
      <template #left="{ row }">
        {{ row.left_at ? dateTime(row.left_at) : 'still standing' }}
        <span v-if="leftWords[row.left_by ?? '']" class="quiet small">{{
          leftWords[row.left_by ?? '']
        }}</span>
      </template>
      <template #response="{ row }">
        {{ responseWords[row.response] }}
        <RouterLink v-if="row.work_order" :to="to(`/work/${row.work_order}`)" class="in-text">{{
          row.work_order
        }}</RouterLink>
        <span v-if="row.held_by" class="quiet small">{{ heldWords(row) }}</span>
        <span v-if="afterWords(row)" class="quiet small">{{ afterWords(row) }}</span>
        <span v-for="one in row.earlier" :key="one.at" class="quiet small earlier">
          before that {{ responseWords[one.response] }}
          <RouterLink v-if="one.work_order" :to="to(`/work/${one.work_order}`)" class="in-text">{{
            one.work_order
          }}</RouterLink>
          on {{ dateTime(one.at) }}
        </span>
        <span v-if="row.verdict" class="quiet small">{{ row.verdict.replace('_', ' ') }}</span>
      </template>
    </LedgerTable>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}

.earlier {
  display: block;
}
</style>
