<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { reactive, ref } from 'vue'
import { askToEnd } from '../common/ask'
import { type WorkDetail } from '../common/api'
import { dateTime, duration } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { addDowntime, endDowntime } from './changes'

const props = defineProps<{ work: WorkDetail }>()

const adding = ref(false)
const given = reactive({
  kind: 'unplanned' as 'unplanned' | 'planned' | 'external',
  start: '',
  end: '',
  slowed: null as number | null,
  note: '',
})
const { mutate, error, problem, isPending } = useChange(addDowntime, () => (adding.value = false))
const downtime = () => ({
  number: props.work.number,
  body: {
    kind: given.kind,
    start: given.start,
    end: given.end || undefined,
    slowed: given.slowed == null ? undefined : given.slowed / 100,
    note: given.note,
  },
})
const standsNow = () => ({
  number: props.work.number,
  body: { kind: 'unplanned' as const, start: new Date(now.value).toISOString(), note: '' },
})
const ending = useChange(endDowntime)

function open() {
  adding.value = !adding.value
  given.start ||= props.work.raised_at
}
async function end(row: { id: number; start: string; asset: { name: string } }) {
  const thing = `the downtime of ${row.asset.name} since ${dateTime(row.start)}`
  if (await askToEnd('End', thing, 'It counts until now, and is not opened again.')) {
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
]
</script>

<template>
  <section data-test="downtime-of-work">
    <h2>
      Downtime
      <button v-if="!work.is_over" class="act no-print" data-test="add-downtime" @click="open">
        Add downtime
      </button>
    </h2>
    <LedgerTable
      v-if="work.downtime.length"
      :columns="columns"
      :rows="work.downtime"
      :key-of="(row) => row.id"
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
    </LedgerTable>
    <p v-else class="quiet">None was reported.</p>
    <p v-if="!work.is_over && !work.downtime.some((row) => !row.end)" class="no-print">
      <ElButton :loading="isPending" data-test="stands-now" @click="mutate(standsNow)"
        >{{ work.asset.name }} stands still now</ElButton
      >
    </p>
    <ProblemNote :error="ending.error.value" />
    <form
      v-if="adding"
      v-arrive
      class="inset"
      @submit.prevent="mutate(downtime)"
      @keydown.esc.stop="adding = false"
    >
      <ChoiceField v-model="given.kind" label="Kind" name="downtime-kind">
        <option value="unplanned">unplanned</option>
        <option value="planned">planned</option>
        <option value="external">external</option>
      </ChoiceField>
      <InstantField v-model="given.start" label="From" name="start" required :wrong="problem?.of('start')" />
      <InstantField v-model="given.end" label="To, or open" name="end" :wrong="problem?.of('end')" />
      <NumberField
        v-model="given.slowed"
        class="narrow"
        label="Slowed by %, if it ran on"
        name="slowed"
        :wrong="problem?.of('slowed')"
      />
      <TextField v-model="given.note" class="wide" label="Note" name="downtime-note" />
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
