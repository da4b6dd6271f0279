<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { ref } from 'vue'
import { askToEnd } from '../common/ask'
import { type WorkDetail } from '../common/api'
import { dateTime, duration } from '../common/format'
import { now } from '../common/installation'
import TextField from '../common/fields/TextField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { addDowntime, deleteDowntime, endDowntime } from './changes'
import DowntimeForm from './DowntimeForm.vue'

const props = defineProps<{ work: WorkDetail }>()

const adding = ref(false)
const standing = useChange(addDowntime)
const standsNow = () => ({
  number: props.work.number,
  body: { kind: 'unplanned' as const, start: new Date(now.value).toISOString(), note: '' },
})
const ending = useChange(endDowntime)
/** Id of the one that is corrected, or deleted. */
const opened = ref<number>()
const doing = ref<'correct' | 'delete'>('correct')
const reason = ref('')
const deleting = useChange(deleteDowntime, () => (opened.value = undefined))
function turn(row: Row, to: 'correct' | 'delete') {
  opened.value = opened.value === row.id && doing.value === to ? undefined : row.id
  doing.value = to
  reason.value = ''
}
async function end(row: Row) {
  const thing = `the downtime of ${row.asset.name} since ${dateTime(row.start)}`
  if (await askToEnd('End', thing, 'It counts until now.')) {
    ending.mutate({ id: row.id, end: new Date(now.value).toISOString() })
  }
}

type Row = WorkDetail['downtime'][number]
const ms = (row: Row) => (row.end ? Date.parse(row.end) : now.value) - Date.parse(row.start)
const columns: LedgerColumn<Row>[] = [
  { key: 'kind', name: 'Kind', text: (row) => row.kind },
  { key: 'asset', name: 'Asset', by: (row) => row.asset.name, lead: true },
  { key: 'from', name: 'From', text: (row) => dateTime(row.start), by: (row) => row.start },
  { key: 'to', name: 'To', by: (row) => row.end },
  { key: 'length', name: 'Length', text: (row) => duration(ms(row)), by: ms, num: true },
  { key: 'do', name: 'Do', unseen: true, num: true, nowrap: true, screenOnly: true },
]
</script>

<template>
  <section data-test="downtime-of-work">
    <h2>
      Downtime
      <button v-if="!work.is_over" class="act no-print" data-test="add-downtime" @click="adding = !adding">
        Add downtime
      </button>
    </h2>
    <LedgerTable
      v-if="work.downtime.length"
      :columns="columns"
      :rows="work.downtime"
      :key-of="(row) => row.id"
      :opened="opened"
      label="Downtime"
      test="downtime"
    >
      <template #asset="{ row }">
        {{ row.asset.name }}
        <span v-if="row.slowed != null" class="small"
          >ran on, slowed by {{ Math.round(row.slowed * 100) }} %</span
        ><span v-if="row.note" class="quiet small"> {{ row.note }}</span>
      </template>
      <template #to="{ row }">
        <template v-if="row.end">{{ dateTime(row.end) }}</template>
        <button v-else class="act" @click="end(row)">It runs again</button>
      </template>
      <template v-if="work.may_tick" #do="{ row }">
        <button class="act" data-test="correct-downtime" @click="turn(row, 'correct')">Correct</button>
        <button class="act" data-test="delete-downtime" @click="turn(row, 'delete')">Delete</button>
      </template>
      <template #below="{ row }">
        <DowntimeForm v-if="doing === 'correct'" :work="work" :row="row" @close="opened = undefined" />
        <form
          v-else
          v-arrive
          class="inset"
          @submit.prevent="deleting.mutate({ id: row.id, reason })"
          @keydown.esc.stop="opened = undefined"
        >
          <TextField
            v-model="reason"
            class="wide"
            label="Why it is deleted"
            name="delete-reason"
            needed
            :wrong="deleting.problem.value?.of('reason')"
          />
          <ElButton
            type="primary"
            native-type="submit"
            :loading="deleting.isPending.value"
            data-test="delete-downtime-confirm"
            >Delete this downtime</ElButton
          >
          <ProblemNote :error="deleting.error.value" />
        </form>
      </template>
    </LedgerTable>
    <p v-else class="quiet">None was reported.</p>
    <p v-if="!work.is_over && !work.downtime.some((row) => !row.end)" class="no-print">
      <ElButton :loading="standing.isPending.value" data-test="stands-now" @click="standing.mutate(standsNow)"
        >{{ work.asset.name }} stands still now</ElButton
      >
    </p>
    <ProblemNote :error="ending.error.value ?? standing.error.value" />
    <DowntimeForm v-if="adding" :work="work" @close="adding = false" />
  </section>
</template>

<style scoped>
.act {
  padding: 0;
}

.act + .act {
  margin-left: 12px;
}
</style>
