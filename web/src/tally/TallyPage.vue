<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import { date, dateTime, hours, moneyShort } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { indicators } from '../common/queries/tally'
import { useTally } from '../common/useTally'
import ColumnsChoice from './ColumnsChoice.vue'
import FlatRanking from './FlatRanking.vue'
import TallyNav from './TallyNav.vue'
import TallyTable from './TallyTable.vue'
import TallyTools from './TallyTools.vue'
import { columns, sorter, useColumns } from './columns'
import { useTree } from './useTree'

const { basis, asked, past, read, change } = useTally()
const print = () => window.print()
const sort = computed(() => read('by'))
const descending = computed(() => read('desc') === 'yes')
const isFlat = computed(() => read('flat') === 'yes')
const beside = computed(() => read('beside') === 'yes')

const catalogue = useQuery(indicators())
const { ids, choose } = useColumns(() => catalogue.data.value)
const shown = computed(() => columns(catalogue.data.value ?? [], ids.value))
/** The figure that the whole is ordered or drawn by. */
const main = computed(() => sort.value || shown.value[0]?.id || 'cost_total')
const months = computed(() => read('months') === 'yes')

/** What the heading says is asked for as well. */
const HEAD = ['cost_total', 'unplanned_downtime']
const question = computed(() => ({
  ...asked.value,
  indicators: [...new Set([...ids.value, ...HEAD])].join(','),
  ...(months.value && { months: main.value }),
}))
const order = computed(() => sorter(sort.value, descending.value))
const { base, lines, toggle } = useTree(question, order)
const { data, error } = base
const headline = computed(() => {
  const tops = data.value?.rows.filter((row) => row.depth === 0) ?? []
  const top = tops.length === 1 ? tops[0] : undefined
  if (!top) return ''
  const cost = top.figures.cost_total?.value ?? 0
  const down = top.figures.unplanned_downtime?.value ?? 0
  return `${top.name}: ${moneyShort(cost)} ${installation.value.currency} and ${hours(down)} h of unplanned downtime`
})

function sortBy(id: string) {
  // The greatest first, then the least first, then by name again.
  if (sort.value !== id) change({ by: id, desc: 'yes' })
  else if (descending.value) change({ desc: '' })
  else change({ by: '', desc: '' })
}
const turn = (key: string, on: boolean) => change({ [key]: on ? 'yes' : '' })
const checked = (event: Event) => (event.target as HTMLInputElement).checked
</script>

<template>
  <TallyNav />
  <div class="head">
    <div>
      <h1>{{ headline || 'Tally' }}</h1>
      <p v-if="data" class="quiet">
        {{ date(data.span.start) }} – {{ date(Date.parse(data.span.end) - 1)
        }}<template v-if="data.before"
          >, against {{ date(data.before.start) }} – {{ date(Date.parse(data.before.end) - 1) }}</template
        ><template v-if="past.as_of"
          >, as it was on {{ dateTime(past.as_of)
          }}{{ past.known_at ? ' by what was known then' : '' }}</template
        >. Press a figure to see the rows that make it, a change to take it apart.
      </p>
    </div>
    <button class="act no-print" @click="print()">Print</button>
  </div>
  <TallyTools>
    <ColumnsChoice :catalogue="catalogue.data.value ?? []" :shown="ids" @choose="choose" />
  </TallyTools>
  <p class="ways small no-print">
    <label
      ><input
        type="checkbox"
        :checked="beside"
        data-test="beside"
        @change="turn('beside', checked($event))"
      />
      both periods</label
    >
    <label
      ><input
        type="checkbox"
        :checked="months"
        data-test="months"
        @change="turn('months', checked($event))"
      />
      by month</label
    >
    <label
      ><input type="checkbox" :checked="isFlat" data-test="flat" @change="turn('flat', checked($event))" /> as
      one ranking</label
    >
    <label>
      <input
        type="checkbox"
        :checked="basis === 'as_is'"
        @change="change({ basis: basis === 'as_is' ? '' : 'as_is' })"
      />
      count by today’s tree
    </label>
  </p>
  <ProblemNote :error="error" />
  <FlatRanking v-if="isFlat && shown.length" :columns="shown" :by="main" />
  <div v-else-if="lines.length && shown.length" class="wide on-wide-paper">
    <TallyTable
      :lines="lines"
      :columns="shown"
      :sort="sort"
      :descending="descending"
      :beside="beside"
      :months="months ? shown.find((one) => one.id === main)?.short : undefined"
      @sort="sortBy"
      @toggle="toggle"
    />
  </div>
  <EmptyState v-else-if="data && !lines.length" title="There is nothing to add up yet">
    The tally is the asset tree with its figures. Add assets first; costs, downtime and failures come from the
    work on them.
  </EmptyState>
</template>

<style scoped>
.wide {
  container-type: inline-size;
  overflow-x: auto;
  /* What is brought into sight does not come to lie below the names, which stay. */
  scroll-padding-left: min(260px, 60%);
}

.head p {
  margin: 3px 0 0;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: 6px 0 8px;
}
</style>
