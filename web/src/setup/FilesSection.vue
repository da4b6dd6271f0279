<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { useAddress } from '../common/useAddress'
import ImportFile from './ImportFile.vue'
import type { FileKind } from './kinds'

defineProps<{
  /** The kind whose import is open. */
  chosen?: string
}>()
const { scope, to } = useAddress()

const kinds: { kind: FileKind; name: string; columns: string }[] = [
  { kind: 'equipment-classes', name: 'Equipment classes', columns: 'code, name' },
  { kind: 'crews', name: 'Crews', columns: 'code, name, department, weekly_hours' },
  {
    kind: 'upkeep-plans',
    name: 'Upkeep plans',
    columns: 'code, name, asset or class, every_days or every_units, first_due, crew, estimated_hours, …',
  },
  { kind: 'storeroom', name: 'Storeroom', columns: 'code, name, place, stock, lead_days, price, fits' },
  { kind: 'people', name: 'People', columns: 'code, name, role, crew, rate' },
  { kind: 'assets', name: 'Assets', columns: 'code, name, level, parent, class …' },
  { kind: 'meters', name: 'Meters', columns: 'code, asset, name, kind, unit …' },
  {
    kind: 'codebooks',
    name: 'Codebooks',
    columns: 'codebook, class, problem, problem_name, cause …',
  },
  {
    kind: 'limits',
    name: 'Limits',
    columns: 'meter, side, severity, setpoint, deadband, response …',
  },
  { kind: 'readings', name: 'Readings', columns: 'meter, at, value' },
  {
    kind: 'work-orders',
    name: 'Work orders',
    columns:
      'reference, title, asset, state, raised_at, done_at, problem, cause, remedy, down_from, down_to …',
  },
  {
    kind: 'work-entries',
    name: 'What was spent',
    columns: 'reference, kind, at, person, quantity, unit_price, item, supplier …',
  },
]
/** Forms in which everything is written out and taken in. */
const forms = ['csv', 'xlsx', 'json', 'ndjson']
function href(kind: FileKind, form: string): string {
  const narrow = ['assets', 'meters', 'readings', 'work-orders', 'work-entries'].includes(kind) && scope.value
  return `/api/v1/export/${kind}.${form}${narrow ? `?scope=${encodeURIComponent(scope.value)}` : ''}`
}

const columns: LedgerColumn<(typeof kinds)[number]>[] = [
  { key: 'name', name: 'What', by: null, lead: true },
  { key: 'columns', name: 'Columns of the file', by: null },
  { key: 'in', name: 'In', by: null },
  { key: 'out', name: 'Out', by: null },
]
</script>

<template>
  <template v-for="one in kinds" :key="one.kind">
    <ImportFile v-if="one.kind === chosen" :kind="one.kind" :name="one.name" />
  </template>
  <h1>Files in and out</h1>
  <p class="quiet says">
    A row whose code is new is added, one whose code is there is changed, columns that a file leaves out stay
    as they are. CSV with comma, semicolon or tab, decimal point or comma, UTF-8 or Windows-1252; the first
    sheet of a workbook (XLSX); JSON, as a list or an object a line. Nothing is kept before you have seen what
    becomes of every line. An export has all columns there are: a file to begin with.
    <template v-if="scope"> Assets, meters and readings are exported for the scope in the tree.</template>
  </p>
  <LedgerTable
    :columns="columns"
    :rows="kinds"
    :key-of="(one) => one.kind"
    :chosen="chosen"
    label="Kinds of files"
  >
    <template #name="{ row }"
      ><strong>{{ row.name }}</strong></template
    >
    <template #columns="{ row }"
      ><span class="quiet">{{ row.columns }}</span></template
    >
    <template #in="{ row }">
      <RouterLink :to="to(`/setup/files/${row.kind}`)" class="act" :data-test="`import-${row.kind}`" data-row>
        Import a file
      </RouterLink>
    </template>
    <template #out="{ row }">
      <a v-for="form in forms" :key="form" class="act out" :href="href(row.kind, form)" download>{{
        form.toUpperCase()
      }}</a>
    </template>
  </LedgerTable>
</template>

<style scoped>
.says {
  max-width: 86ch;
  margin: 3px 0 14px;
}

.out {
  margin-right: 14px;
}
</style>
