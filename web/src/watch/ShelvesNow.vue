<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { type ShelfRow } from '../common/api'
import { dateTime, whole } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { unshelve } from './changes'

defineProps<{ shelves: ShelfRow[] }>()
const { to } = useAddress()
const { mutate, error } = useChange(unshelve)

const columns: LedgerColumn<ShelfRow>[] = [
  { key: 'meter', name: 'Meter', by: (row) => `${row.asset.name}: ${row.meter_name}`, lead: true },
  { key: 'reason', name: 'Reason', text: (row) => row.reason },
  { key: 'until', name: 'Until', text: (row) => dateTime(row.until), by: (row) => row.until },
  { key: 'by', name: 'By', text: (row) => row.by },
  { key: 'holds', name: 'Alarms held', text: (row) => whole(row.holds), by: (row) => row.holds, num: true },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="shelves.length"
    :columns="columns"
    :rows="shelves"
    :key-of="(row) => row.meter"
    label="Shelved meters"
    test="shelf"
  >
    <template #meter="{ row }">
      <RouterLink :to="to(`/watch/${row.meter}`)" data-row
        >{{ row.asset.name }}: {{ row.meter_name }}</RouterLink
      >
    </template>
    <template #do="{ row }"
      ><button class="act" @click="mutate(row.meter)">Take off the shelf</button></template
    >
  </LedgerTable>
  <EmptyState v-else title="Nothing is shelved">
    Shelve a meter while it is known to tell nothing, such as during work on its cabling. Its alarms are held
    back until the shelf ends, and answer then if they still stand.
  </EmptyState>
</template>
