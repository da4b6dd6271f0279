<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { dateTime, whole } from '../common/format'
import { installation } from '../common/installation'
import type { LedgerOrder } from '../common/ledger/columns'
import PartsNav from '../common/PartsNav.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useSearch } from '../common/useSearch'
import type { Asked, SubjectId } from '../common/list/asked'
import { counted, textOf, unitOf } from '../common/list/cells'
import AsOfChoice from './AsOfChoice.vue'
import ColumnChoice from './ColumnChoice.vue'
import FigureNote from './FigureNote.vue'
import GroupChoice from './GroupChoice.vue'
import ListFilters from './ListFilters.vue'
import ListGroups from '../common/list/ListGroups.vue'
import ListRows from '../common/list/ListRows.vue'
import { groups, subjects } from '../common/queries/lists'
import SavedViews from './SavedViews.vue'
import { useChosen } from './useChosen'

const props = defineProps<{ subject: string }>()
const { scope, period, read } = useAddress()
const { chosen, choose } = useChosen()
const text = useSearch()

const catalogue = useQuery(subjects())
const subject = computed(() => catalogue.data.value?.find((one) => one.id === (props.subject as SubjectId)))

/** The past instant that is asked for, if any. */
const past = computed(() => {
  const { as_of, known_at } = chosen.value
  return { ...(as_of && { as_of }), ...(known_at && { known_at }) }
})
/** What is asked of the server: what was chosen, in the scope, and in the period where the rows have a time. */
const ask = computed<Asked>(() => {
  const { time, facets, summaries } = subject.value ?? {}
  const { figure } = chosen.value
  const within = time && !figure ? [{ column: time, within: period.value }] : []
  return {
    ...(figure && { figure }),
    scope: figure ? null : scope.value || null,
    text: read('text') || null,
    filter: [...within, ...(chosen.value.filter ?? [])],
    group: chosen.value.group ?? [],
    sort: chosen.value.sort ?? (time ? [{ column: time, descending: true }] : []),
    columns: chosen.value.columns ?? [],
    facets: chosen.value.facets ?? facets ?? [],
    summaries: figure ? [{ column: 'counted', of: 'sum' as const }, ...(summaries ?? [])] : (summaries ?? []),
    ...past.value,
  }
})
const { data, error } = useQuery(() => ({
  ...groups((props.subject as SubjectId) ?? 'work', ask.value),
  enabled: subject.value !== undefined,
  placeholderData: keepPreviousData,
}))
const isGrouped = computed(() => (ask.value.group?.length ?? 0) > 0)
const order = computed<LedgerOrder | undefined>({
  get: () => {
    const first = ask.value.sort?.[0]
    return first && { key: first.column, descending: first.descending === true }
  },
  set: (next) =>
    choose({ ...chosen.value, sort: next ? [{ column: next.key, descending: next.descending }] : [] }),
})
/** What all of it comes to; where two have one unit, each by its name. */
const sums = computed(() => {
  const told = (data.value?.summed ?? []).map((column, place) => ({
    unit: unitOf(column, installation.value.currency) ?? '',
    name: column.name.toLowerCase(),
    text: textOf(data.value?.summaries[place] ?? null, column.holds),
  }))
  const isAlone = (unit: string) => told.filter((other) => other.unit === unit).length === 1
  return told.map(({ unit, name, text }) => `${text} ${unit}${isAlone(unit) ? '' : ` ${name}`}`)
})
const shown = computed(() => data.value?.columns.map((column) => column.id) ?? [])
const file = (form: string) =>
  `/api/v1/lists/${props.subject}.${form}/file?ask=${encodeURIComponent(JSON.stringify(ask.value))}`
const parts = computed(() =>
  (catalogue.data.value ?? []).map(({ id, name }) => ({
    path: `/reports/${id}`,
    name,
    here: id === props.subject,
  })),
)
const print = () => window.print()
</script>

<template>
  <PartsNav name="Reports" :parts="parts" />
  <template v-if="subject">
    <div class="head">
      <div>
        <h1 v-if="data" data-test="list-totals">{{ counted(data.count, subject) }}</h1>
        <p v-if="sums.length" class="quiet sums" data-test="list-sums">{{ sums.join(' · ') }}</p>
        <FigureNote v-if="chosen.figure" :figure="chosen.figure" />
        <p v-if="past.as_of" class="small sums" data-test="list-past">
          As it was on {{ dateTime(past.as_of) }}{{ past.known_at ? ', by what was known then' : '' }}.
        </p>
        <p v-if="data?.overlap" class="small sums" data-test="list-overlap">
          Some stand in several groups: the groups come to {{ whole(data.overlap) }} more.
        </p>
      </div>
      <div class="tools no-print">
        <a class="act" :href="file('csv')" download>CSV</a>
        <a class="act" :href="file('xlsx')" download>XLSX</a>
        <button class="act" @click="print()">Print</button>
      </div>
    </div>
    <div class="choices no-print">
      <SavedViews :subject="subject" />
      <GroupChoice :subject="subject" />
      <AsOfChoice />
      <ColumnChoice v-if="!isGrouped" :subject="subject" :shown="shown" />
    </div>
    <ListFilters v-if="data" :subject="subject" :answer="data">
      <input
        v-model="text"
        class="line"
        type="search"
        placeholder="Number, title or asset"
        aria-label="Filter the list"
      />
    </ListFilters>
    <ProblemNote :error="error" />
    <template v-if="data">
      <EmptyState v-if="!data.count" title="Nothing fits these filters">
        Take a filter away, choose another period above, or another asset in the tree.
      </EmptyState>
      <ListGroups v-else-if="isGrouped" :subject="subject" :answer="data" :ask="ask" />
      <ListRows v-else v-model:order="order" :subject="subject" :ask="ask" selects />
    </template>
  </template>
  <EmptyState v-else-if="catalogue.data.value" title="There is no such list">
    Choose one of those above.
  </EmptyState>
</template>

<style scoped>
.sums {
  margin: 3px 0 12px;
}

.tools,
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: baseline;
}

.choices {
  margin-bottom: 8px;
}
</style>
