<script setup lang="ts">
import { ref } from 'vue'
import { answer, api, type LateRow } from '../common/api'
import { dateTime, reading } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'

defineProps<{ late: LateRow[] }>()
const { to } = useAddress()
const judging = ref<number>()
const judgement = ref('')
const { mutate, error, problem } = useChange(
  (id: number) =>
    answer(
      api.POST('/api/v1/late-readings/{id}/judge', {
        params: { path: { id } },
        body: { judgement: judgement.value },
      }),
    ),
  () => {
    judging.value = undefined
    judgement.value = ''
  },
)
</script>

<template>
  <p v-if="late.length" class="quiet">
    A late reading sets nothing off, and a voided one may have set something off that is over. Say what you
    make of each.
  </p>
  <ProblemNote :error="error" :shown="['judgement']" />
  <table v-if="late.length" class="ledger">
    <thead>
      <tr>
        <th>Severity</th>
        <th>Meter</th>
        <th class="num">Reading</th>
        <th>Read at</th>
        <th>Came in</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in late" :key="row.id" data-test="late">
        <td><SeverityStrokes :severity="row.severity" word /></td>
        <td>
          <RouterLink :to="to(`/watch/${row.meter}`)">{{ row.asset.name }}: {{ row.meter_name }}</RouterLink>
        </td>
        <td class="num">{{ reading(row.value, row.unit, []) }}</td>
        <td>
          {{ dateTime(row.at) }}
          <span class="quiet small what">{{
            row.what === 'voided' ? `voided; its ${row.rung} is over` : `beyond ${row.rung}`
          }}</span>
        </td>
        <td>{{ dateTime(row.recorded_at) }}</td>
        <td class="judge">
          <form v-if="judging === row.id" v-arrive @submit.prevent="mutate(row.id)">
            <input
              v-model="judgement"
              class="line"
              name="judgement"
              aria-label="What you make of it"
              placeholder="What you make of it"
              aria-describedby="judgement-wrong"
            />
            <ElButton native-type="submit" type="primary">Keep</ElButton>
            <span v-if="problem?.of('judgement')" id="judgement-wrong" class="wrong" role="alert">{{
              problem.of('judgement')
            }}</span>
          </form>
          <button v-else class="act" @click="judging = row.id">Judge</button>
        </td>
      </tr>
    </tbody>
  </table>
  <EmptyState v-else title="No reading is to be judged">
    A reading that comes after a newer one changes the chart and every replay, but raises nothing. If it lies
    beyond a rung, it is listed here for a person to judge; so is a voided reading whose alarm was over by
    then.
  </EmptyState>
</template>

<style scoped>
.what {
  display: block;
}

.judge {
  text-align: right;
}

form {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
