<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import { hours, whole } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { jobSheet, jobSheets } from '../common/queries/jobs'
import { useAddress } from '../common/useAddress'
import JobSheetEditor from './JobSheetEditor.vue'

const props = defineProps<{
  /** Of the sheet that is open; `new` for one to add. */
  code?: string
}>()
const { to } = useAddress()
const { data, error } = useQuery(jobSheets())
const isNew = computed(() => props.code === 'new')
const one = useQuery(() => ({ ...jobSheet(props.code ?? ''), enabled: !!props.code && !isNew.value }))

type Row = Schemas['JobSheetRow']
const columns: LedgerColumn<Row>[] = [
  { key: 'code', name: 'Code', by: (row) => row.code, lead: true, nowrap: true },
  { key: 'title', name: 'Job', text: (row) => row.title },
  { key: 'trade', name: 'Trade', text: (row) => row.trade ?? '' },
  { key: 'steps', name: 'Steps', text: (row) => whole(row.steps), by: (row) => row.steps, num: true },
  {
    key: 'hours',
    name: 'Hours',
    text: (row) => (row.hours == null ? '' : hours(row.hours)),
    by: (row) => row.hours,
    num: true,
  },
  { key: 'plans', name: 'Plans', text: (row) => whole(row.plans), by: (row) => row.plans, num: true },
  { key: 'used', name: 'Orders', text: (row) => whole(row.used), by: (row) => row.used, num: true },
  { key: 'status', name: 'Status', text: (row) => row.status },
]
</script>

<template>
  <JobSheetEditor
    v-if="isNew || (one.data.value && one.data.value.code === code)"
    :key="code"
    :view="isNew ? undefined : one.data.value"
  />
  <template v-else>
    <div class="head">
      <div>
        <h1>Job sheets</h1>
        <p class="quiet">
          Jobs described once: their steps, parts, tools and permits. Work, plans and limits take them.
        </p>
      </div>
      <RouterLink :to="to('/setup/job-sheets/new')" class="press primary" data-test="add-row">
        Add job sheet
      </RouterLink>
    </div>
    <ProblemNote :error="error ?? one.error.value" />
    <LedgerTable
      v-if="data?.length"
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.code"
      label="Job sheets"
    >
      <template #code="{ row }">
        <RouterLink :to="to(`/setup/job-sheets/${row.code}`)" data-row>{{ row.code }}</RouterLink>
      </template>
    </LedgerTable>
    <EmptyState v-else-if="data" title="No job sheets yet">
      What is done again and again is written down once, and every order has it at hand.
    </EmptyState>
  </template>
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
