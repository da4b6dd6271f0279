<script setup lang="ts">
import { whole } from '../common/format'
import { master } from './queries/master'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useSearch } from '../common/useSearch'
import ManyChange from './ManyChange.vue'
import MasterFacets from './MasterFacets.vue'
import MasterRowPane from './MasterRowPane.vue'
import { shown } from './cells'
import { type Kind, type Values, isFigure, tables } from './kinds'

const props = defineProps<{ kind: Kind; code?: string }>()
const { scope, read, change, to } = useAddress()
const table = computed(() => tables[props.kind])
const text = useSearch()
const sort = computed(() => read('sort') || 'code')
const descending = computed(() => read('desc') === 'yes')
const query = computed(() => ({
  scope: props.kind === 'assets' || props.kind === 'meters' ? scope.value || undefined : undefined,
  text: read('text') || undefined,
  filter: read('filter') || undefined,
  sort: sort.value,
  descending: descending.value,
  all: read('all') === 'yes',
}))

const { data, error, fetchNextPage, hasNextPage, isPending } = useInfiniteQuery(() => ({
  ...master(props.kind, query.value),
  placeholderData: keepPreviousData,
}))
const first = computed(() => data.value?.pages[0])
const rows = computed<Values[]>(
  () => data.value?.pages.flatMap((page) => page.rows.map((row) => row.values)) ?? [],
)
const columns = computed(() => first.value?.columns ?? [])
/** Beside an open row there is room for code and name only. */
const listed = computed(() => {
  const wanted = props.code ? ['code', 'name'] : table.value.shown
  return wanted.flatMap((name) => columns.value.find((column) => column.name === name) ?? [])
})

const selected = ref(new Set<string>())
watch(query, () => selected.value.clear())
function select(code: string, on: boolean) {
  if (on) selected.value.add(code)
  else selected.value.delete(code)
}
const allSelected = computed(
  () => rows.value.length > 0 && rows.value.every((row) => selected.value.has(row.code ?? '')),
)
function selectAll(on: boolean) {
  for (const row of rows.value) select(row.code ?? '', on)
}
const chosen = computed(() => rows.value.filter((row) => selected.value.has(row.code ?? '')))

function sortBy(name: string) {
  const same = sort.value === name
  change({ sort: name, desc: same && !descending.value ? 'yes' : '' })
}
const unit = (form: string) => (form === 'money' ? installation.value.currency : '')
/** Links within the setup keep filters and order, which `to` leaves out. */
const row = (code: string) => ({ ...to(`/setup/${props.kind}/${code}`), query: kept.value })
const kept = computed(() => {
  const query: Values = {}
  for (const key of ['scope', 'period', 'text', 'filter', 'sort', 'desc', 'all'])
    if (read(key)) query[key] = read(key)
  return query
})
</script>

<template>
  <div class="screen" :class="{ beside: code }">
    <section :aria-label="table.many">
      <div class="head">
        <div>
          <h1 data-test="master-total">
            {{ whole(first?.total ?? 0) }}
            {{ first?.total === 1 ? table.one : table.many.toLowerCase() }}
          </h1>
          <p v-if="!code" class="quiet">{{ table.says }}</p>
        </div>
        <div v-if="!code" class="tools">
          <RouterLink :to="to(`/setup/files/${kind}`)" class="act once">Import or export</RouterLink>
          <RouterLink :to="row('new')" class="press primary" data-test="add-row">
            Add {{ table.one }}
          </RouterLink>
        </div>
      </div>
      <MasterFacets v-if="first" :facets="first.facets" :folded="code !== undefined && code !== ''">
        <input
          v-model="text"
          class="line"
          type="search"
          placeholder="Code or name"
          :aria-label="`Filter ${table.many}`"
        />
        <label v-if="!code && kind !== 'crews' && kind !== 'equipment-classes'" class="small all">
          <input
            type="checkbox"
            :checked="read('all') === 'yes'"
            @change="change({ all: read('all') ? '' : 'yes' })"
          />
          with {{ kind === 'people' ? 'those who left' : 'retired ones' }}
        </label>
      </MasterFacets>
      <ManyChange
        v-if="chosen.length && !code"
        :kind="kind"
        :columns="columns"
        :rows="chosen"
        @done="selected.clear()"
      />
      <ProblemNote :error="error" />
      <table v-if="rows.length" class="ledger">
        <thead>
          <tr>
            <th v-if="!code" class="pick">
              <input
                type="checkbox"
                :checked="allSelected"
                aria-label="Select all rows shown"
                @change="selectAll(!allSelected)"
              />
            </th>
            <th
              v-for="column in listed"
              :key="column.name"
              :class="{ num: isFigure(column) }"
              :aria-sort="sort === column.name ? (descending ? 'descending' : 'ascending') : undefined"
            >
              <button class="plain" @click="sortBy(column.name)">
                {{ column.label
                }}<template v-if="sort === column.name">{{ descending ? ' ↓' : ' ↑' }}</template>
              </button>
              <span v-if="unit(column.form.kind)" class="unit">{{ unit(column.form.kind) }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="values in rows"
            :key="values.code"
            :class="{ chosen: values.code === code }"
            data-test="master-row"
          >
            <td v-if="!code" class="pick">
              <input
                type="checkbox"
                :checked="selected.has(values.code ?? '')"
                :aria-label="`Select ${values.code}`"
                @change="select(values.code ?? '', !selected.has(values.code ?? ''))"
              />
            </td>
            <td
              v-for="column in listed"
              :key="column.name"
              :class="{ num: isFigure(column), code: column.name === 'code' }"
            >
              <RouterLink v-if="column.name === 'code'" :to="row(values.code ?? '')" data-row>
                {{ values.code }}
              </RouterLink>
              <template v-else>{{ shown(column, values[column.name] ?? '') }}</template>
            </td>
          </tr>
        </tbody>
      </table>
      <EmptyState
        v-else-if="!isPending && !error"
        :title="
          read('text') || read('filter') ? 'Nothing fits these filters' : `No ${table.many.toLowerCase()} yet`
        "
      >
        <template v-if="read('text') || read('filter')">
          Take a filter away<template v-if="query.scope">, or widen the scope in the tree</template>.
        </template>
        <template v-else>
          Add the first by hand, or
          <RouterLink :to="to(`/setup/files/${kind}`)">import them from a file</RouterLink>.
        </template>
      </EmptyState>
      <p v-if="hasNextPage"><button class="act" @click="fetchNextPage()">Show more</button></p>
    </section>
    <MasterRowPane
      v-if="code && columns.length"
      :key="code"
      :kind="kind"
      :code="code === 'new' ? undefined : code"
      :columns="columns"
      :back="{ ...to(`/setup/${kind}`), query: kept }"
    />
  </div>
</template>

<style scoped>
.once {
  white-space: nowrap;
}

.beside {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 30px;
}

.head p {
  margin: 3px 0 0;
}

.beside h1 {
  font-size: 19px;
}

.tools {
  display: flex;
  align-items: center;
  gap: 18px;
}

.all {
  display: flex;
  gap: 5px;
  align-items: center;
  white-space: nowrap;
}

.pick {
  width: 30px;
}

.unit {
  font-weight: 400;
  font-size: 12px;
  margin-left: 4px;
}

th .plain {
  font-weight: 600;
}

.code {
  white-space: nowrap;
}

tr.chosen td {
  background: var(--accent-soft);
}

@media (max-width: 1000px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }

  .beside section {
    display: none;
  }
}
</style>
