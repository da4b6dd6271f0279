<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'
import type { Schemas } from '../common/api'
import { useChange } from '../common/change/useChange'
import { localDate, plain, stateWords } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { raisePlanNow } from './changes'
import { upkeepPlan } from './queries/master'

/** The cycles of an upkeep plan: what comes next on its assets, and what became of those before. */
const props = defineProps<{ code: string }>()
const router = useRouter()
const { to } = useAddress()
const { data: plan, error } = useQuery(() => upkeepPlan(props.code))
const raise = useChange(raisePlanNow, ({ number }) => void router.push(to(`/work/${number}`)))

type Next = Schemas['NextCycle']
type Row = Schemas['CycleRow']
const becameOf = (row: Row) =>
  row.state ? stateWords[row.state] + (row.brought_forward ? ', brought forward' : '') : 'missed'
const inTime = (row: Row) => (row.in_time == null ? 'not yet' : row.in_time ? 'yes' : 'no')
const day = (on?: string | null) => (on ? localDate(on) : '')
const columns: LedgerColumn<Row>[] = [
  {
    key: 'number',
    name: 'Cycle',
    text: (row) => String(row.number),
    by: (row) => row.number,
    num: true,
    width: '64px',
  },
  { key: 'asset', name: 'Asset', text: (row) => row.asset.name },
  { key: 'due', name: 'Due', text: (row) => day(row.due), by: (row) => row.due, lead: true, nowrap: true },
  { key: 'became', name: 'Work', text: becameOf },
  { key: 'done', name: 'Done', text: (row) => day(row.done_on), by: (row) => row.done_on, nowrap: true },
  { key: 'in_time', name: 'In time', text: inTime },
]
function says(next: Next): string {
  const at = next.mark != null ? ` at ${plain(next.mark)}` : ''
  const reads = next.count != null ? `, the counter reads ${plain(next.count)}` : ''
  const use = next.per_day ? ` and does ${plain(Number(next.per_day.toPrecision(3)))} a day` : ''
  return `${localDate(next.on)}${at}${reads}${use}`
}
</script>

<template>
  <section v-if="plan" data-test="plan-cycles">
    <h2>Cycles</h2>
    <ProblemNote :error="error ?? raise.error.value" />
    <p v-if="plan.status !== 'active'" class="quiet">It is {{ plan.status }}, and makes no work.</p>
    <ul v-else>
      <li v-for="next in plan.next" :key="next.asset.code">
        <template v-if="next.is_open">Work on {{ next.asset.name }} is open.</template>
        <template v-else>Next on {{ next.asset.name }}: {{ says(next) }}.</template>
        <button
          v-if="!next.is_open"
          class="act"
          :disabled="raise.isPending.value"
          data-test="raise-now"
          @click="raise.mutate({ code, asset: next.asset.code })"
        >
          Raise it now
        </button>
      </li>
    </ul>
    <p v-if="plan.judged" class="judged">
      <strong>{{ plan.in_time }} of {{ plan.judged }}</strong> cycles were done in time: by their date before
      any move, and a tenth of the interval.
    </p>
    <LedgerTable
      v-if="plan.cycles.length"
      :columns="columns"
      :rows="plan.cycles"
      :key-of="(row) => `${row.asset.code} ${row.number}`"
      label="Cycles"
    >
      <template #became="{ row }">
        <RouterLink v-if="row.work_order" :to="to(`/work/${row.work_order}`)">{{ becameOf(row) }}</RouterLink>
        <template v-else>{{ becameOf(row) }}</template>
      </template>
    </LedgerTable>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}

ul {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.judged {
  margin: 6px 0 10px;
}
</style>
