<script setup lang="ts">
import { reactive, ref } from 'vue'
import { askToEnd } from '../common/ask'
import { answer, api, type WorkDetail } from '../common/api'
import { dateTime, duration, fromLocal, toLocal } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'

const props = defineProps<{ work: WorkDetail }>()

const adding = ref(false)
const given = reactive({
  kind: 'unplanned' as 'unplanned' | 'planned' | 'external',
  start: '',
  end: '',
  note: '',
})
const { mutate, error, problem, isPending } = useChange(
  () =>
    answer(
      api.POST('/api/v1/work-orders/{number}/downtime', {
        params: { path: { number: props.work.number } },
        body: {
          kind: given.kind,
          start: fromLocal(given.start) ?? '',
          end: fromLocal(given.end),
          note: given.note,
        },
      }),
    ),
  () => (adding.value = false),
)
const ending = useChange((id: number) =>
  answer(
    api.POST('/api/v1/downtime/{id}/end', {
      params: { path: { id } },
      body: { end: new Date(now.value).toISOString() },
    }),
  ),
)

function open() {
  adding.value = !adding.value
  given.start ||= toLocal(props.work.raised_at)
}
async function end(row: { id: number; start: string; asset: { name: string } }) {
  const thing = `the downtime of ${row.asset.name} since ${dateTime(row.start)}`
  if (await askToEnd('End', thing, 'It counts until now, and is not opened again.')) ending.mutate(row.id)
}
const length = (start: string, end: string | null | undefined) =>
  duration((end ? Date.parse(end) : now.value) - Date.parse(start))
</script>

<template>
  <section>
    <h2>
      Downtime
      <button v-if="!work.is_over" class="act no-print" data-test="add-downtime" @click="open">
        Add downtime
      </button>
    </h2>
    <table v-if="work.downtime.length" class="ledger">
      <thead>
        <tr>
          <th>Kind</th>
          <th>Asset</th>
          <th>From</th>
          <th>To</th>
          <th class="num">Length</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in work.downtime" :key="row.id" data-test="downtime">
          <td>{{ row.kind }}</td>
          <td>
            {{ row.asset.name }}<span v-if="row.note" class="quiet small"> {{ row.note }}</span>
          </td>
          <td>{{ dateTime(row.start) }}</td>
          <td>
            <template v-if="row.end">{{ dateTime(row.end) }}</template>
            <button v-else class="act" @click="end(row)">still down: end it now</button>
          </td>
          <td class="num">{{ length(row.start, row.end) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">None was reported.</p>
    <ProblemNote :error="ending.error.value" />
    <form v-if="adding" v-arrive class="inset" @submit.prevent="mutate()" @keydown.esc.stop="adding = false">
      <label class="field">
        Kind
        <select v-model="given.kind" class="line" name="downtime-kind">
          <option value="unplanned">unplanned</option>
          <option value="planned">planned</option>
          <option value="external">external</option>
        </select>
      </label>
      <label class="field">
        From
        <input
          v-model="given.start"
          class="line"
          type="datetime-local"
          name="start"
          required
          :aria-invalid="problem?.of('start') !== undefined"
        />
      </label>
      <label class="field">
        To, or open
        <input
          v-model="given.end"
          class="line"
          type="datetime-local"
          name="end"
          :aria-invalid="problem?.of('end') !== undefined"
        />
      </label>
      <label class="field wide">Note <input v-model="given.note" class="line" name="downtime-note" /></label>
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-downtime"
        >Add downtime</ElButton
      >
      <ProblemNote :error="error" />
    </form>
  </section>
</template>

<style scoped>
.act {
  padding: 0;
}
</style>
