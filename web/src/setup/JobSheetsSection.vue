<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import { hours, whole } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'
import { jobSheet, jobSheets } from '../common/queries/jobs'
import JobSheetEditor from './JobSheetEditor.vue'
import SheetList from './SheetList.vue'

const props = defineProps<{
  /** Of the sheet that is open; `new` for one to add. */
  code?: string
}>()
const { data, error } = useQuery(jobSheets())
const sheets = computed(() => data.value?.filter((sheet) => !sheet.round))
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
  <SheetList
    v-else
    title="Job sheets"
    says="Jobs described once: their steps, parts, tools and permits. Work, plans and limits take them."
    path="/setup/job-sheets"
    add="Add job sheet"
    :columns="columns"
    :rows="sheets"
    :error="error ?? one.error.value"
    empty="No job sheets yet"
  >
    What is done again and again is written down once, and every order has it at hand.
  </SheetList>
</template>
