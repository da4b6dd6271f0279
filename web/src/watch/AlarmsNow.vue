<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { useOrder } from '../common/ledger/useOrder'
import { severities } from '../generated/words'
import { alarms as alarmsAsked } from '../common/queries/watch'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { type AlarmRow } from '../common/api'
import { ago, dateTime } from '../common/format'
import { now } from '../common/installation'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import LateReadings from './LateReadings.vue'
import ShelfForm from './ShelfForm.vue'
import ShelvesNow from './ShelvesNow.vue'
import WatchNav from './WatchNav.vue'
import UnconfirmedRepairs from './UnconfirmedRepairs.vue'
import OutOfUseNow from './OutOfUseNow.vue'
import RunningOn from './RunningOn.vue'
import { useAcknowledge } from './useAcknowledge'
import { afterWords, heldWords, momentOf, reached, responseWords } from '../common/alarms'

type Show =
  | 'standing'
  | 'unacknowledged'
  | 'unconfirmed'
  | 'not_held'
  | 'held'
  | 'stale'
  | 'silent'
  | 'shelved'
  | 'out_of_use'
  | 'run_on'
  | 'late'
const shows: { show: Show; words: string; one?: string }[] = [
  { show: 'standing', words: 'standing' },
  { show: 'unacknowledged', words: 'not acknowledged' },
  { show: 'unconfirmed', words: 'repairs not yet confirmed', one: 'repair not yet confirmed' },
  { show: 'not_held', words: 'repairs that did not hold', one: 'repair that did not hold' },
  { show: 'held', words: 'held' },
  { show: 'stale', words: 'stale' },
  { show: 'silent', words: 'silent' },
  { show: 'shelved', words: 'shelved meters', one: 'shelved meter' },
  { show: 'out_of_use', words: 'assets out of use', one: 'asset out of use' },
  { show: 'run_on', words: 'running on by decision' },
  { show: 'late', words: 'readings to judge', one: 'reading to judge' },
]
/** Those that are no list of alarms. */
const others: Show[] = ['unconfirmed', 'shelved', 'out_of_use', 'run_on', 'late']
const { scope, read, change, to } = useAddress()
const show = computed<Show>(() => shows.find((one) => one.show === read('show'))?.show ?? 'standing')
const { data, error } = useQuery(() => ({
  ...alarmsAsked(scope.value, others.includes(show.value) ? 'standing' : (show.value as 'standing')),
  placeholderData: keepPreviousData,
}))
const countOf = (one: Show) =>
  one === 'out_of_use' ? (data.value?.out_of_use.length ?? 0) : (data.value?.counts[one] ?? 0)
const alarms = computed(() => data.value?.alarms ?? [])

const chosen = ref(new Set<string>())
/** Of those chosen, what is still in the list and nobody has acknowledged meanwhile. */
const toAcknowledge = computed(() => unseen.value.filter((alarm) => chosen.value.has(String(alarm.id))))
watch([show, scope], () => (chosen.value = new Set()))
const unseen = computed(() => alarms.value.filter((alarm) => !alarm.acknowledged_at))
const { acknowledge, error: refused, isPending } = useAcknowledge('/alarms', () => (chosen.value = new Set()))
/** Code of the meter that is about to be shelved. */
const shelving = ref<number>()

const order = useOrder()
const columns: LedgerColumn<AlarmRow>[] = [
  { key: 'severity', name: 'Severity', by: (row) => severities.indexOf(row.severity) },
  {
    key: 'meter',
    name: 'Meter',
    by: (row) => `${row.asset.name}: ${row.meter_name}`,
    width: '28%',
    lead: true,
  },
  { key: 'found', name: 'Found', text: reached, by: null, width: '20%' },
  { key: 'since', name: 'Since', by: (row) => row.entered_at, nowrap: true },
  { key: 'response', name: 'Response', by: (row) => responseWords[row.response] },
  { key: 'do', name: 'Do', unseen: true, num: true, nowrap: true, screenOnly: true },
]
</script>

<template>
  <WatchNav />
  <h1 v-if="data">
    {{ data.counts.unacknowledged }} of {{ data.counts.standing }}
    {{ data.counts.standing === 1 ? 'alarm' : 'alarms' }} nobody has acknowledged
  </h1>
  <ProblemNote :error="error ?? refused" />
  <p v-if="data" class="shows" role="group" aria-label="Which alarms">
    <button
      v-for="one in shows"
      :key="one.show"
      class="plain"
      :aria-pressed="one.show === show"
      :data-test="`show-${one.show}`"
      @click="change({ show: one.show === 'standing' ? '' : one.show })"
    >
      <strong>{{ countOf(one.show) }}</strong>
      {{ countOf(one.show) === 1 ? (one.one ?? one.words) : one.words }}
    </button>
  </p>
  <template v-if="data && show === 'shelved'"><ShelvesNow :shelves="data.shelves" /></template>
  <template v-else-if="data && show === 'unconfirmed'"
    ><UnconfirmedRepairs :repairs="data.unconfirmed"
  /></template>
  <template v-else-if="data && show === 'out_of_use'"><OutOfUseNow :spells="data.out_of_use" /></template>
  <template v-else-if="data && show === 'run_on'"><RunningOn :decisions="data.run_on" /></template>
  <template v-else-if="data && show === 'late'"><LateReadings :late="data.late" /></template>
  <template v-else-if="data">
    <p v-if="alarms.length" class="bar">
      <ElButton
        :disabled="!toAcknowledge.length"
        :loading="isPending"
        data-test="acknowledge-chosen"
        @click="acknowledge(toAcknowledge)"
      >
        Acknowledge {{ toAcknowledge.length || '' }} selected
      </ElButton>
    </p>
    <LedgerTable
      v-if="alarms.length"
      v-model:order="order"
      v-model:selected="chosen"
      :columns="columns"
      :rows="alarms"
      :key-of="(row) => row.id"
      :selects="(row) => (row.acknowledged_at ? undefined : `${row.meter_name} on ${row.asset.name}`)"
      :opened="shelving"
      label="Alarms"
      test="alarm-now"
    >
      <template #severity="{ row }"><SeverityStrokes :severity="row.severity" word /></template>
      <template #meter="{ row }">
        <RouterLink :to="momentOf(row, to)" data-row>{{ row.asset.name }}: {{ row.meter_name }}</RouterLink>
        <span class="quiet small code">{{ row.meter }}</span>
      </template>
      <template #since="{ row }"
        ><span :title="dateTime(row.entered_at)">{{ ago(row.entered_at, now) }}</span></template
      >
      <template #response="{ row }">
        <span class="since">
          {{ responseWords[row.response] }}
          <RouterLink v-if="row.work_order" :to="to(`/work/${row.work_order}`)" class="in-text">{{
            row.work_order
          }}</RouterLink>
        </span>
        <span v-if="row.held_by" class="quiet small code">{{ heldWords(row) }}</span>
        <span v-if="afterWords(row)" class="quiet small code">{{ afterWords(row) }}</span>
      </template>
      <template #do="{ row }">
        <span v-if="row.acknowledged_at" class="quiet small" :title="dateTime(row.acknowledged_at)"
          >acknowledged by {{ row.acknowledged_by }}</span
        >
        <button v-else class="act" @click="acknowledge([row])">Acknowledge</button>
        <button
          class="act"
          :aria-expanded="shelving === row.id"
          @click="shelving = shelving === row.id ? undefined : row.id"
        >
          Shelve
        </button>
      </template>
      <template #below="{ row }"><ShelfForm :meter="row.meter" @close="shelving = undefined" /></template>
    </LedgerTable>
    <EmptyState v-else :title="show === 'standing' ? 'No alarm stands' : 'None of these'">
      <template v-if="show === 'standing'">
        Every reading in this scope lies within its limits.
        <RouterLink :to="to('/watch')">See how far each meter is from its nearest limit.</RouterLink>
      </template>
      <template v-else>
        <RouterLink :to="to('/alarms')">See all that stand.</RouterLink>
      </template>
    </EmptyState>
  </template>
</template>

<style scoped>
.shows {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  margin: 8px 0 14px;
}

.shows button {
  color: var(--ink-2);
  padding: 3px 0;
}

.shows strong {
  color: var(--ink);
  font: 600 17px var(--serif);
}

.shows button[aria-pressed='true'] {
  color: var(--ink);
  box-shadow: 0 2px 0 var(--accent);
}

.bar {
  display: flex;
  gap: 16px;
  margin: 0 0 8px;
}

.code.quiet.small {
  display: block;
  margin-left: 0;
  line-height: 1.25;
}

.since {
  white-space: nowrap;
}

.ledger .act {
  padding: 0;
  font-size: 13.5px;
}

.ledger .act + .act,
.ledger span + .act {
  margin-left: 12px;
}
</style>
