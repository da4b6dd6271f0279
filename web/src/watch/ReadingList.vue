<script setup lang="ts">
import InstantField from '../common/fields/InstantField.vue'
import RowReason from '../common/fields/RowReason.vue'
import NumberField from '../common/fields/NumberField.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { readingList } from './queries/meters'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { type MeterDetail, type ReadingRow } from '../common/api'
import { dateTime, onTheMinute, reading } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { noteExchange, releaseReading, voidReading } from './changes'

const props = defineProps<{ meter: MeterDetail }>()

const apart = ref(false)
const { data, error } = useQuery(() => ({
  ...readingList(props.meter.code, apart.value),
  placeholderData: keepPreviousData,
}))
const voiding = ref<string>()
const reason = ref('')
const voided = useChange(voidReading, () => {
  voiding.value = undefined
  reason.value = ''
})
const released = useChange(releaseReading)
const exchanging = ref(false)
const exchange = ref({
  at: onTheMinute(now.value),
  final_value: undefined as number | undefined,
  start_value: 0,
})
const exchanged = useChange(noteExchange, () => (exchanging.value = false))
const noted = () => ({
  meter: props.meter.code,
  at: exchange.value.at,
  final_value: exchange.value.final_value!,
  start_value: exchange.value.start_value,
})
const value = (row: Pick<ReadingRow, 'value'>) => reading(row.value, props.meter.unit, props.meter.grades)
const source = (row: ReadingRow) =>
  [row.source?.replace('_', ' '), row.batch, row.by].filter(Boolean).join(', ')

const columns: LedgerColumn<ReadingRow>[] = [
  {
    key: 'at',
    name: 'Read at',
    text: (row) => dateTime(row.at),
    by: (row) => row.at,
    nowrap: true,
    lead: true,
  },
  { key: 'value', name: 'Value', text: value, by: (row) => row.value, num: true, nowrap: true },
  { key: 'from', name: 'From', by: source },
  { key: 'apart', name: 'Kept apart', unseen: true },
  { key: 'do', name: 'Do', unseen: true, num: true, nowrap: true, screenOnly: true },
]
</script>

<template>
  <section aria-label="Readings" data-test="reading-list">
    <h2>Readings one by one</h2>
    <p class="bar">
      <label><input v-model="apart" type="checkbox" name="apart" /> only those kept apart</label>
      <button v-if="meter.kind === 'counter'" class="act" @click="exchanging = !exchanging">
        Note an exchange of the device
      </button>
    </p>
    <form
      v-if="exchanging"
      v-arrive
      class="inset"
      aria-label="Exchange"
      @submit.prevent="exchanged.mutate(noted)"
    >
      <InstantField
        v-model="exchange.at"
        label="Exchanged at"
        :wrong="exchanged.problem.value?.of('at')"
        name="exchanged-at"
      />
      <NumberField
        v-model="exchange.final_value"
        label="The old one ended at"
        :wrong="exchanged.problem.value?.of('final_value')"
        name="final"
        required
      />
      <NumberField
        v-model="exchange.start_value"
        label="The new one began at"
        :wrong="exchanged.problem.value?.of('start_value')"
        name="start"
        required
      />
      <ElButton type="primary" native-type="submit" :loading="exchanged.isPending.value">Keep</ElButton>
      <ProblemNote :error="exchanged.error.value" :shown="['at', 'final_value', 'start_value']" />
    </form>
    <ProblemNote :error="error ?? voided.error.value ?? released.error.value" :shown="['reason']" />
    <LedgerTable
      v-if="data?.readings.length"
      :columns="columns"
      :rows="data.readings"
      :key-of="(row) => row.at"
      label="Readings"
      test="reading"
    >
      <template #from="{ row }"
        ><span class="quiet small">{{ source(row) }}</span></template
      >
      <template #apart="{ row }">
        <span v-if="row.late" class="small">late</span>
        <strong v-if="row.quarantined" class="small">kept apart: outside the plausible range</strong>
      </template>
      <template #do="{ row }">
        <RowReason
          v-if="voiding === row.at"
          v-model="reason"
          label="Why it does not hold"
          name="void-reason"
          act="Void"
          :wrong="voided.problem.value?.of('reason')"
          :is-pending="voided.isPending.value"
          @keep="voided.mutate({ meter: meter.code, at: row.at, reason })"
        />
        <template v-else>
          <button
            v-if="row.quarantined"
            class="act"
            @click="released.mutate({ meter: meter.code, at: row.at })"
          >
            Release
          </button>
          <button class="act" @click="voiding = row.at">Void</button>
        </template>
      </template>
    </LedgerTable>
    <p v-else-if="data" class="quiet">{{ apart ? 'Nothing is kept apart.' : 'Nothing was read yet.' }}</p>
    <template v-if="data?.exchanges.length">
      <h3>Exchanges of the device</h3>
      <p v-for="row in data.exchanges" :key="row.at" class="line-of" data-test="exchange">
        {{ dateTime(row.at) }}: ended at {{ value({ value: row.final_value }) }}, began at
        {{ value({ value: row.start_value }) }} <span class="quiet small">{{ row.by }}</span>
      </p>
    </template>
    <template v-if="data?.voided.length">
      <h3>Voided</h3>
      <p v-for="row in data.voided" :key="`${row.at} ${row.voided_at}`" class="line-of" data-test="voided">
        <s>{{ value(row) }}</s> of {{ dateTime(row.at) }}: {{ row.reason }}
        <span class="quiet small">{{ row.by }}, {{ dateTime(row.voided_at) }}</span>
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}

h3 {
  margin: 14px 0 4px;
  font-size: 15px;
}

.bar {
  display: flex;
  gap: 22px;
  margin: 4px 0 6px;
  font-size: 14px;
}

.ledger .act {
  padding: 0;
  font-size: 13.5px;
}

.ledger .act + .act,
.ledger span + .act {
  margin-left: 12px;
}

.line-of {
  margin: 2px 0;
}
</style>
