<script setup lang="ts">
import { ref } from 'vue'
import { answer, api, type AlarmsNow, Problem } from '../common/api'
import { ago, dateTime, reading, unit } from '../common/format'
import { now } from '../common/installation'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import ReadingValue from '../common/fields/ReadingValue.vue'
import { givenValue } from '../common/fields/given'

type Repair = AlarmsNow['unconfirmed'][number]
defineProps<{ repairs: Repair[] }>()
const { to } = useAddress()
const keyOf = (row: Repair) => `${row.meter} ${row.work_order}`
const entering = ref<string>()
const value = ref('')
const { mutate, error, isPending } = useChange(
  async (row: Repair) => {
    const at = new Date(now.value).toISOString()
    const sent = [{ meter: row.meter, at, value: givenValue(value.value, row.grades.length > 0) }]
    const receipt = await answer(
      api.POST('/api/v1/readings', { params: { query: { source: 'entered' } }, body: sent }),
    )
    const refused = receipt.refused[0]?.reason
    if (refused) throw new Problem(422, refused, [])
    return receipt
  },
  () => {
    entering.value = undefined
    value.value = ''
  },
)
</script>

<template>
  <p v-if="repairs.length" class="quiet">
    The work is done, and the rung still stands by an older reading. The first reading since decides: back
    within its limits, or work again.
  </p>
  <ProblemNote :error="error" />
  <table v-if="repairs.length" class="ledger">
    <thead>
      <tr>
        <th>Severity</th>
        <th>Meter</th>
        <th>Work</th>
        <th>Finished</th>
        <th class="num">Last read</th>
        <th><span class="unseen">Do</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in repairs" :key="keyOf(row)" data-test="unconfirmed">
        <td><SeverityStrokes :severity="row.severity" word /></td>
        <td>
          <RouterLink :to="to(`/watch/${row.meter}`)">{{ row.asset.name }}: {{ row.meter_name }}</RouterLink>
        </td>
        <td>
          <RouterLink :to="to(`/work/${row.work_order}`)">{{ row.title }}</RouterLink>
        </td>
        <td :title="dateTime(row.finished_at)">{{ ago(row.finished_at, now) }}</td>
        <td class="num">
          <template v-if="row.last_value != null">{{
            reading(row.last_value, row.unit, row.grades)
          }}</template>
          <span v-if="row.last_at" class="quiet small before">{{ ago(row.last_at, now) }}</span>
        </td>
        <td class="do">
          <form
            v-if="entering === keyOf(row)"
            v-arrive
            @submit.prevent="mutate(row)"
            @keydown.esc.stop="entering = undefined"
          >
            <ReadingValue v-model="value" :grades="row.grades" :label="`${row.meter_name} now`" />
            <span class="quiet">{{ unit(row.unit) }}</span>
            <ElButton native-type="submit" type="primary" :loading="isPending">Keep</ElButton>
          </form>
          <button v-else class="act" data-test="read-now" @click="((entering = keyOf(row)), (value = ''))">
            Enter a reading
          </button>
        </td>
      </tr>
    </tbody>
  </table>
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
