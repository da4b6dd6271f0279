<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { useChange } from '../common/change/useChange'
import AssetField from '../common/fields/AssetField.vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import DateField from '../common/fields/DateField.vue'
import NumberField from '../common/fields/NumberField.vue'
import { date, hours, moneyShort, toLocal } from '../common/format'
import { installation, now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { crews } from '../common/queries/plant'
import { useAddress } from '../common/useAddress'
import { removeValue, setValue } from './changes'
import { values } from './queries/master'

type Kind = Schemas['ValueKind']
type Row = Schemas['ValueRow']

/** What assets and crews are worth, from a day on. */
const { scope, read, change } = useAddress()
const kinds: Record<Kind, { name: string; says: string }> = {
  budget: {
    name: 'Budgets',
    says: 'What may be spent on an asset in a fiscal year. Above it, budgets below add up.',
  },
  replacement_value: { name: 'Replacement values', says: 'What an asset would cost anew, from a day on.' },
  downtime_cost: {
    name: 'Cost per hour down',
    says: 'What an hour of its unplanned downtime costs, from a day on.',
  },
  weekly_hours: { name: 'Hours a week', says: 'What a crew can do in a week, from a day on.' },
}
const kind = computed<Kind>(() => (read('kind') in kinds ? (read('kind') as Kind) : 'budget'))
const isHours = computed(() => kind.value === 'weekly_hours')
const { data, error } = useQuery(() => values(kind.value))
const teams = useQuery(crews())
const given = reactive({
  of: scope.value,
  from: toLocal(now.value).slice(0, 10),
  value: null as number | null,
})
const { mutate, problem, error: wrong, isPending } = useChange(setValue, () => (given.value = null))
const removal = useChange(removeValue)
const unit = computed(() => 10 ** installation.value.minor_digits)
const body = (): Schemas['NewValue'] => ({
  kind: kind.value,
  of: given.of,
  from: given.from,
  value: given.value == null ? null : isHours.value ? given.value : Math.round(given.value * unit.value),
})
const wasOf = (row: Row): Schemas['NewValue'] => ({
  kind: row.kind,
  of: row.of,
  from: toLocal(row.from).slice(0, 10),
  value: row.value,
})
const shown = (row: Row) => {
  if (row.value == null) return 'nothing any more'
  return isHours.value ? hours(row.value) : moneyShort(row.value)
}
const columns = computed<LedgerColumn<Row>[]>(() => [
  {
    key: 'of',
    name: isHours.value ? 'Crew' : 'Asset',
    text: (row) => row.of_name,
    by: (row) => row.of_name,
    lead: true,
  },
  { key: 'code', name: 'Code', text: (row) => row.of },
  {
    key: 'from',
    name: kind.value === 'budget' ? 'Fiscal year from' : 'From',
    text: (row) => date(row.from),
    by: (row) => row.from,
    nowrap: true,
  },
  {
    key: 'value',
    name: kinds[kind.value].name,
    unit: isHours.value ? 'h' : installation.value.currency,
    text: shown,
    by: (row) => row.value,
    num: true,
  },
  {
    key: 'who',
    name: 'Set by',
    text: (row) => `${row.recorded_by}, ${date(row.recorded_at)}`,
    by: (row) => row.recorded_at,
  },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
])
</script>

<template>
  <h1>Values by date</h1>
  <p class="quiet">{{ kinds[kind].says }} What was set before holds until its day.</p>
  <p class="ways">
    <button
      v-for="(one, key) in kinds"
      :key="key"
      class="act"
      :class="{ here: kind === key }"
      :data-test="`values-${key}`"
      @click="change({ kind: key })"
    >
      {{ one.name }}
    </button>
  </p>
  <ProblemNote :error="error" />
  <form class="inset" @submit.prevent="mutate(body())">
    <ChoiceField v-if="isHours" v-model="given.of" label="Crew" name="value-of">
      <option v-for="one in teams.data.value" :key="one.code" :value="one.code">{{ one.name }}</option>
    </ChoiceField>
    <AssetField v-else v-model="given.of" :wrong="problem?.of('of')" />
    <DateField v-model="given.from" label="From" name="value-from" required :wrong="problem?.of('from')" />
    <NumberField
      v-model="given.value"
      class="narrow"
      :label="isHours ? 'Hours a week' : `Amount, ${installation.currency}`"
      hint="Empty: nothing is set any more"
      name="value"
      :wrong="problem?.of('value')"
    />
    <ElButton type="primary" native-type="submit" :loading="isPending" data-test="set-value">Set</ElButton>
    <ProblemNote :error="wrong" />
  </form>
  <LedgerTable
    v-if="data?.length"
    :columns="columns"
    :rows="data"
    :key-of="(row) => row.id"
    label="Values by date"
    test="value-row"
  >
    <template #do="{ row }">
      <button
        class="act"
        :aria-label="`Take away ${row.of_name} from ${date(row.from)}`"
        @click="removal.mutate({ id: row.id, was: wasOf(row) })"
      >
        Take away
      </button>
    </template>
  </LedgerTable>
  <EmptyState v-else-if="data" title="Nothing is set by date yet">
    What stands with the assets and crews themselves holds.
  </EmptyState>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}

.ways .here {
  color: var(--ink);
  font-weight: 600;
  border-bottom: 2px solid var(--accent);
}
</style>
