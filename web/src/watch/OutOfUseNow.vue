<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { type AlarmsNow } from '../common/api'
import { dateTime } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useOutOfUse } from '../common/useOutOfUse'

defineProps<{ spells: AlarmsNow['out_of_use'] }>()
const { to } = useAddress()
const { end } = useOutOfUse()

const columns: LedgerColumn<AlarmsNow['out_of_use'][number]>[] = [
  { key: 'asset', name: 'Asset', by: (row) => row.asset.name, lead: true },
  { key: 'reason', name: 'Why', text: (row) => row.reason },
  { key: 'from', name: 'From', text: (row) => dateTime(row.from), by: (row) => row.from },
  {
    key: 'until',
    name: 'Until',
    text: (row) => (row.until ? dateTime(row.until) : 'until it is taken back'),
    by: (row) => row.until,
  },
  { key: 'by', name: 'By', text: (row) => row.by },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <ProblemNote :error="end.error.value" />
  <LedgerTable
    v-if="spells.length"
    :columns="columns"
    :rows="spells"
    :key-of="(row) => row.asset.code + row.from"
    label="Assets out of use"
    test="out-of-use"
  >
    <template #asset="{ row }">
      <RouterLink :to="to('/alarms', { scope: row.asset.code })" data-row>{{ row.asset.name }}</RouterLink>
    </template>
    <template #do="{ row }">
      <button class="act" data-test="back-in-use" @click="end.mutate(row.asset.code)">
        Take back into use
      </button>
    </template>
  </LedgerTable>
  <EmptyState v-else title="Every asset is in use">
    Put an asset out of use in the plant’s setup, beside where it stands: alarms of it and of all below it are
    held until it is back, and answer then if they still stand.
  </EmptyState>
</template>

<style scoped>
.do {
  text-align: right;
}
</style>
