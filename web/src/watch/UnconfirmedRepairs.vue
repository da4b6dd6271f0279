<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { severities } from '../generated/words'
import { ref } from 'vue'
import { type AlarmsNow, Problem } from '../common/api'
import { ago, dateTime, reading, unit } from '../common/format'
import { now } from '../common/installation'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { enterReadings } from '../common/change/readings'
import ReadingValue from '../common/fields/ReadingValue.vue'
import { givenValue } from '../common/fields/given'

type Repair = AlarmsNow['unconfirmed'][number]
defineProps<{ repairs: Repair[] }>()
const { to } = useAddress()
const keyOf = (row: Repair) => `${row.meter} ${row.work_order}`
const entering = ref<string>()
const value = ref('')
const { mutate, error, isPending } = useChange(enterReadings, (receipt) => {
  const refused = receipt.refused[0]?.reason
  if (refused) throw new Problem(422, refused, [])
  entering.value = undefined
  value.value = ''
})
const read = (row: Repair) => [
  {
    meter: row.meter,
    at: new Date(now.value).toISOString(),
    value: givenValue(value.value, row.grades.length > 0),
  },
]

const columns: LedgerColumn<Repair>[] = [
  { key: 'severity', name: 'Severity', by: (row) => severities.indexOf(row.severity) },
  { key: 'meter', name: 'Meter', by: (row) => `${row.asset.name}: ${row.meter_name}`, lead: true },
  { key: 'work', name: 'Work', by: (row) => row.title },
  { key: 'finished', name: 'Finished', by: (row) => row.finished_at },
  { key: 'last', name: 'Last read', by: (row) => row.last_at, num: true },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <p v-if="repairs.length" class="quiet">
    The work is done, and the rung still stands by an older reading. The first reading since decides: back
    within its limits, or work again.
  </p>
  <ProblemNote :error="error" />
  <LedgerTable
    v-if="repairs.length"
    :columns="columns"
    :rows="repairs"
    :key-of="keyOf"
    label="Repairs not yet confirmed"
    test="unconfirmed"
  >
    <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
    <template #meter="{ row }">
      <RouterLink :to="to(`/watch/${row.meter}`)" data-row
        >{{ row.asset.name }}: {{ row.meter_name }}</RouterLink
      >
    </template>
    <template #work="{ row }"
      ><RouterLink :to="to(`/work/${row.work_order}`)">{{ row.title }}</RouterLink></template
    >
    <template #finished="{ row }"
      ><span :title="dateTime(row.finished_at)">{{ ago(row.finished_at, now) }}</span></template
    >
    <template #last="{ row }">
      <template v-if="row.last_value != null">{{ reading(row.last_value, row.unit, row.grades) }}</template>
      <span v-if="row.last_at" class="quiet small before">{{ ago(row.last_at, now) }}</span>
    </template>
    <template #do="{ row }">
      <form
        v-if="entering === keyOf(row)"
        v-arrive
        @submit.prevent="mutate(read(row))"
        @keydown.esc.stop="entering = undefined"
      >
        <ReadingValue v-model="value" :grades="row.grades" :label="`${row.meter_name} now`" />
        <span class="quiet">{{ unit(row.unit) }}</span>
        <ElButton native-type="submit" type="primary" :loading="isPending">Keep</ElButton>
      </form>
      <button v-else class="act" data-test="read-now" @click="((entering = keyOf(row)), (value = ''))">
        Enter a reading
      </button>
    </template>
  </LedgerTable>
  <EmptyState v-else title="Every repair is confirmed">
    Where work is finished and its rung still stands by an older reading, it is listed here until the meter is
    read again.
  </EmptyState>
</template>

<style scoped>
.before {
  display: block;
}

.do {
  text-align: right;
}

form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  justify-content: flex-end;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>
