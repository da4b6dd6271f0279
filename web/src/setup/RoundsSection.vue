<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import { hours, whole } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'
import { jobSheet, jobSheets } from '../common/queries/jobs'
import RoundEditor from './RoundEditor.vue'
import SheetList from './SheetList.vue'
import { walkWords } from './words'

const props = defineProps<{
  /** Of the round that is open; `new` for one to add. */
  code?: string
}>()
const { data, error } = useQuery(jobSheets())
const rounds = computed(() => data.value?.filter((sheet) => sheet.round))
const isNew = computed(() => props.code === 'new')
const one = useQuery(() => ({ ...jobSheet(props.code ?? ''), enabled: !!props.code && !isNew.value }))

type Row = Schemas['JobSheetRow']
const columns: LedgerColumn<Row>[] = [
  { key: 'code', name: 'Code', by: (row) => row.code, lead: true, nowrap: true },
  { key: 'title', name: 'Round', text: (row) => row.title },
  { key: 'walk', name: 'Walked', text: (row) => (row.round ? walkWords[row.round] : '') },
  { key: 'crew', name: 'Crew', text: (row) => row.crew ?? '' },
  { key: 'steps', name: 'Visits', text: (row) => whole(row.steps), by: (row) => row.steps, num: true },
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
  <RoundEditor
    v-if="isNew || (one.data.value && one.data.value.code === code)"
    :key="code"
    :view="isNew ? undefined : one.data.value"
  />
  <SheetList
    v-else
    title="Rounds"
    says="Assets to visit, each with its check sheet or a job sheet: one order, one step a visit. Plans raise them."
    path="/setup/rounds"
    add="Add round"
    :columns="columns"
    :rows="rounds"
    :error="error ?? one.error.value"
    empty="No rounds yet"
  >
    What is looked at on one walk is one order, and what was passed over says why.
  </SheetList>
</template>
