<script setup lang="ts">
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
  { show: 'late', words: 'readings to judge', one: 'reading to judge' },
]
/** Those that are no list of alarms. */
const others: Show[] = ['unconfirmed', 'shelved', 'out_of_use', 'late']
const { scope, read, change, to } = useAddress()
const show = computed<Show>(() => shows.find((one) => one.show === read('show'))?.show ?? 'standing')
const { data, error } = useQuery(() => ({
  ...alarmsAsked(scope.value, others.includes(show.value) ? 'standing' : (show.value as 'standing')),
  placeholderData: keepPreviousData,
}))
const countOf = (one: Show) =>
  one === 'out_of_use' ? (data.value?.out_of_use.length ?? 0) : (data.value?.counts[one] ?? 0)
const newestFirst = computed(() => read('sort') === 'newest')
const alarms = computed(() => {
  const all = data.value?.alarms ?? []
  if (!newestFirst.value) return all
  return [...all].sort((a, b) => b.entered_at.localeCompare(a.entered_at))
})

const chosen = ref(new Set<number>())
/** Of those chosen, what is still in the list and nobody has acknowledged meanwhile. */
const toAcknowledge = computed(() => unseen.value.filter((alarm) => chosen.value.has(alarm.id)))
watch([show, scope], () => chosen.value.clear())
const unseen = computed(() => alarms.value.filter((alarm) => !alarm.acknowledged_at))
const all = computed({
  get: () => unseen.value.length > 0 && unseen.value.every((alarm) => chosen.value.has(alarm.id)),
  set: (every) => (chosen.value = new Set(every ? unseen.value.map((alarm) => alarm.id) : [])),
})
function choose(alarm: AlarmRow) {
  if (!chosen.value.delete(alarm.id)) chosen.value.add(alarm.id)
}
const { acknowledge, error: refused, isPending } = useAcknowledge('/alarms', () => chosen.value.clear())
/** Code of the meter that is about to be shelved. */
const shelving = ref<number>()
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
      <button class="act" @click="change({ sort: newestFirst ? '' : 'newest' })">
        {{ newestFirst ? 'Worst first' : 'Newest first' }}
      </button>
    </p>
    <table v-if="alarms.length" class="ledger">
      <thead>
        <tr>
          <th class="mark">
            <input v-model="all" type="checkbox" aria-label="Select all" :disabled="!unseen.length" />
          </th>
          <th>Severity</th>
          <th class="meter">Meter</th>
          <th class="found">Found</th>
          <th>Since</th>
          <th>Response</th>
          <th class="do"><span class="unseen">Do</span></th>
        </tr>
      </thead>
      <tbody v-for="alarm in alarms" :key="alarm.id">
        <tr data-test="alarm-now">
          <td>
            <input
              v-if="!alarm.acknowledged_at"
              type="checkbox"
              :checked="chosen.has(alarm.id)"
              :aria-label="`Select ${alarm.meter_name} on ${alarm.asset.name}`"
              @change="choose(alarm)"
            />
          </td>
          <td><SeverityStrokes :severity="alarm.severity" word /></td>
          <td>
            <RouterLink :to="momentOf(alarm, to)">{{ alarm.asset.name }}: {{ alarm.meter_name }}</RouterLink>
            <span class="quiet small code">{{ alarm.meter }}</span>
          </td>
          <td>{{ reached(alarm) }}</td>
          <td class="since" :title="dateTime(alarm.entered_at)">{{ ago(alarm.entered_at, now) }}</td>
          <td>
            <span class="since">
              {{ responseWords[alarm.response] }}
              <RouterLink v-if="alarm.work_order" :to="to(`/work/${alarm.work_order}`)" class="in-text">{{
                alarm.work_order
              }}</RouterLink>
            </span>
            <span v-if="alarm.held_by" class="quiet small code">{{ heldWords(alarm) }}</span>
            <span v-if="afterWords(alarm)" class="quiet small code">{{ afterWords(alarm) }}</span>
          </td>
          <td class="do small">
            <span v-if="alarm.acknowledged_at" class="quiet" :title="dateTime(alarm.acknowledged_at)"
              >acknowledged by {{ alarm.acknowledged_by }}</span
            >
            <button v-else class="act" @click="acknowledge([alarm])">Acknowledge</button>
            <button
              class="act"
              :aria-expanded="shelving === alarm.id"
              @click="shelving = shelving === alarm.id ? undefined : alarm.id"
            >
              Shelve
            </button>
          </td>
        </tr>
        <tr v-if="shelving === alarm.id" class="form">
          <td colspan="7"><ShelfForm :meter="alarm.meter" @close="shelving = undefined" /></td>
        </tr>
      </tbody>
    </table>
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

.mark {
  width: 26px;
}

table .code.quiet.small {
  display: block;
  margin-left: 0;
  line-height: 1.25;
}

th.meter {
  width: 28%;
}

th.found {
  width: 20%;
}

.since {
  white-space: nowrap;
}

.do {
  text-align: right;
  white-space: nowrap;
}

.do .act {
  padding: 0 0 0 12px;
  font-size: 13.5px;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}

.form td {
  padding: 0;
}

/* On a phone each alarm is a card of its own. */
@media (max-width: 760px) {
  .ledger,
  .ledger tbody {
    display: block;
  }

  thead {
    display: none;
  }

  tbody tr:not(.form) {
    display: grid;
    grid-template-columns: 26px 1fr auto;
    border-bottom: 1px solid var(--rule);
    padding: 6px 0;
  }

  tbody tr:not(.form) td {
    border: 0;
    padding: 2px 0;
    grid-column: 2 / 4;
  }

  tbody tr td:nth-child(1),
  tbody tr td:nth-child(2),
  tbody tr td:nth-child(5) {
    grid-column: auto;
    grid-row: 1;
  }

  .do {
    text-align: left;
  }
}
</style>
