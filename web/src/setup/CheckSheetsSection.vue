<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import { whole } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'
import { checkSheet, checkSheets } from '../common/queries/jobs'
import CheckSheetEditor from './CheckSheetEditor.vue'
import SheetList from './SheetList.vue'

const props = defineProps<{
  /** Of the sheet that is open; `new` for one to add. */
  code?: string
}>()
const { data, error } = useQuery(checkSheets())
const isNew = computed(() => props.code === 'new')
const one = useQuery(() => ({ ...checkSheet(props.code ?? ''), enabled: !!props.code && !isNew.value }))

type Row = Schemas['CheckSheetRow']
const columns: LedgerColumn<Row>[] = [
  { key: 'code', name: 'Code', by: (row) => row.code, lead: true, nowrap: true },
  { key: 'title', name: 'What is checked', text: (row) => row.title },
  { key: 'class', name: 'Class', text: (row) => row.class ?? '' },
  {
    key: 'questions',
    name: 'Questions',
    text: (row) => whole(row.questions),
    by: (row) => row.questions,
    num: true,
  },
  {
    key: 'rules',
    name: 'Raise work',
    text: (row) => whole(row.rules),
    by: (row) => row.rules,
    num: true,
  },
  { key: 'used', name: 'Filled in', text: (row) => whole(row.used), by: (row) => row.used, num: true },
  { key: 'status', name: 'Status', text: (row) => row.status },
]
</script>

<template>
  <CheckSheetEditor
    v-if="isNew || (one.data.value && one.data.value.code === code)"
    :key="code"
    :view="isNew ? undefined : one.data.value"
  />
  <SheetList
    v-else
    title="Check sheets"
    says="What is looked at and written down: readings go to their meters, answers raise work, results stay with the asset."
    path="/setup/check-sheets"
    add="Add check sheet"
    :columns="columns"
    :rows="data"
    :error="error ?? one.error.value"
    empty="No check sheets yet"
  >
    An inspection that is written down once is done alike by everybody, and its answers can be followed over
    time.
  </SheetList>
</template>
