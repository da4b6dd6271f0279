<script setup lang="ts">
import RowReason from '../common/fields/RowReason.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { severities } from '../generated/words'
import { ref } from 'vue'
import { type LateRow } from '../common/api'
import { dateTime, reading } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { judgeLate } from './changes'

defineProps<{ late: LateRow[] }>()
const { to } = useAddress()
const judging = ref<number>()
const judgement = ref('')
const { mutate, error, problem, isPending } = useChange(judgeLate, () => {
  judging.value = undefined
  judgement.value = ''
})

const columns: LedgerColumn<LateRow>[] = [
  { key: 'severity', name: 'Severity', by: (row) => severities.indexOf(row.severity) },
  { key: 'meter', name: 'Meter', by: (row) => `${row.asset.name}: ${row.meter_name}`, lead: true },
  { key: 'reading', name: 'Reading', text: (row) => reading(row.value, row.unit, []), by: null, num: true },
  { key: 'at', name: 'Read at', by: (row) => row.at },
  { key: 'came', name: 'Came in', text: (row) => dateTime(row.recorded_at), by: (row) => row.recorded_at },
  { key: 'do', name: 'Judge', unseen: true, screenOnly: true },
]
</script>

<template>
  <p v-if="late.length" class="quiet">
    A late reading sets nothing off, and a voided one may have set something off that is over. Say what you
    make of each.
  </p>
  <ProblemNote :error="error" :shown="['judgement']" />
  <LedgerTable
    v-if="late.length"
    :columns="columns"
    :rows="late"
    :key-of="(row) => row.id"
    label="Readings to judge"
    test="late"
  >
    <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
    <template #meter="{ row }">
      <RouterLink :to="to(`/watch/${row.meter}`)" data-row
        >{{ row.asset.name }}: {{ row.meter_name }}</RouterLink
      >
    </template>
    <template #at="{ row }">
      {{ dateTime(row.at) }}
      <span class="quiet small what">{{
        row.what === 'voided' ? `voided; its ${row.rung} is over` : `beyond ${row.rung}`
      }}</span>
    </template>
    <template #do="{ row }">
      <RowReason
        v-if="judging === row.id"
        v-model="judgement"
        label="What you make of it"
        name="judgement"
        act="Keep"
        :wrong="problem?.of('judgement')"
        :is-pending
        @keep="mutate({ id: row.id, judgement })"
      />
      <button v-else class="act" @click="judging = row.id">Judge</button>
    </template>
  </LedgerTable>
  <EmptyState v-else title="No reading is to be judged">
    A reading that comes after a newer one changes the chart and every replay, but raises nothing. If it lies
    beyond a rung, it is listed here for a person to judge; so is a voided reading whose alarm was over by
    then.
  </EmptyState>
</template>

<style scoped>
.what {
  display: block;
}
</style>
