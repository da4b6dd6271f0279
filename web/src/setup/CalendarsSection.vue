<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { whole } from '../common/format'
import { calendars } from '../common/queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import CalendarForm from './CalendarForm.vue'
import { weekWords } from './week'

const props = defineProps<{
  /** Of the calendar that is open; `new` for one to add. */
  code?: string
}>()
const { to } = useAddress()
const { data, error } = useQuery(calendars())
const chosen = computed(() => data.value?.find((one) => one.code === props.code))

type Row = NonNullable<typeof data.value>[number]
const seasons = (row: Row) => row.calendar.seasons?.length ?? 0
const columns: LedgerColumn<Row>[] = [
  { key: 'code', name: 'Code', by: (row) => row.code, lead: true },
  { key: 'name', name: 'Name', text: (row) => row.name },
  { key: 'hours', name: 'Hours outside seasons', text: (row) => weekWords(row.calendar.hours), by: null },
  { key: 'seasons', name: 'Seasons', text: (row) => whole(seasons(row)), by: seasons, num: true },
  { key: 'zone', name: 'Time zone', text: (row) => row.calendar.time_zone },
  {
    key: 'assets',
    name: 'Assets that have it',
    text: (row) => whole(row.assets),
    by: (row) => row.assets,
    num: true,
  },
]
</script>

<template>
  <div class="head">
    <div>
      <h1>Calendars</h1>
      <p class="quiet">When assets have to run. Only downtime in these hours counts against availability.</p>
    </div>
    <RouterLink :to="to('/setup/calendars/new')" class="press primary" data-test="add-row">
      Add calendar
    </RouterLink>
  </div>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="data?.length"
    :columns="columns"
    :rows="data"
    :key-of="(row) => row.code"
    :chosen="code"
    label="Calendars"
  >
    <template #code="{ row }">
      <RouterLink :to="to(`/setup/calendars/${row.code}`)" data-row>{{ row.code }}</RouterLink>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="data" title="No calendars yet">
    Without one, every asset has to run around the clock.
  </EmptyState>
  <CalendarForm v-if="code === 'new' || chosen" :key="code" :calendar="chosen" />
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
