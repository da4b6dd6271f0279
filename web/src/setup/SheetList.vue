<script setup lang="ts" generic="Row extends { code: string }">
import EmptyState from '../common/EmptyState.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'

/** Sheets of one kind, each of which opens on a page of its own. */
defineProps<{
  title: string
  says: string
  path: string
  add: string
  columns: LedgerColumn<Row>[]
  rows?: Row[]
  error?: unknown
  /** What stands above the words where there is none. */
  empty: string
}>()
const { to } = useAddress()
</script>

<template>
  <div class="head">
    <div>
      <h1>{{ title }}</h1>
      <p class="quiet">{{ says }}</p>
    </div>
    <RouterLink :to="to(`${path}/new`)" class="press primary" data-test="add-row">{{ add }}</RouterLink>
  </div>
  <ProblemNote :error="error" />
  <LedgerTable v-if="rows?.length" :columns="columns" :rows="rows" :key-of="(row) => row.code" :label="title">
    <template #code="{ row }">
      <RouterLink :to="to(`${path}/${row.code}`)" data-row>{{ row.code }}</RouterLink>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="rows" :title="empty"><slot /></EmptyState>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 20px;
  margin-bottom: 10px;
}

.head p {
  margin: 3px 0 0;
}
</style>
