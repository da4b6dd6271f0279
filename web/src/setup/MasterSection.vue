<script setup lang="ts">
import MoreRows from '../common/ledger/MoreRows.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { whole } from '../common/format'
import { master } from './queries/master'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useOrder } from '../common/ledger/useOrder'
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
const order = useOrder({ key: 'code', descending: false })
const query = computed(() => ({
  scope: props.kind === 'assets' || props.kind === 'meters' ? scope.value || undefined : undefined,
  text: read('text') || undefined,
  filter: read('filter') || undefined,
  sort: order.value?.key,
  descending: order.value?.descending,
  all: read('all') === 'yes',
}))

const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage, isPending } = useInfiniteQuery(() => ({
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
watch(query, () => (selected.value = new Set()))
const chosen = computed(() => rows.value.filter((row) => selected.value.has(row.code ?? '')))

/** Links within the setup keep filters and order, which `to` leaves out. */
const row = (code: string) => ({ ...to(`/setup/${props.kind}/${code}`), query: kept.value })
const kept = computed(() => {
  const query: Values = {}
  for (const key of ['scope', 'period', 'text', 'filter', 'sort', 'desc', 'all'])
    if (read(key)) query[key] = read(key)
  return query
})

const ledgerColumns = computed<LedgerColumn<Values>[]>(() =>
  listed.value.map((column) => ({
    key: column.name,
    name: column.label,
    unit: column.form.kind === 'money' ? installation.value.currency : undefined,
    text: (values) => shown(column, values[column.name] ?? ''),
    num: isFigure(column),
    sorts: true,
    lead: column.name === 'code',
    nowrap: column.name === 'code',
  })),
)
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
        @done="selected = new Set()"
      />
      <ProblemNote :error="error" />
      <LedgerTable
        v-if="rows.length"
        v-model:order="order"
        v-model:selected="selected"
        served
        :columns="ledgerColumns"
        :rows="rows"
        :key-of="(values) => values.code ?? ''"
        :selects="code ? undefined : (values) => values.code"
        :chosen="code"
        :label="table.many"
        test="master-row"
      >
        <template #code="{ row: values }">
          <RouterLink :to="row(values.code ?? '')" data-row>{{ values.code }}</RouterLink>
        </template>
      </LedgerTable>
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
      <MoreRows :more="hasNextPage" :busy="isFetchingNextPage" @more="fetchNextPage()" />
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

@media (max-width: 1000px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }

  .beside section {
    display: none;
  }
}
</style>
