<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import type { Schemas } from '../common/api'
import { date, inWords, whole } from '../common/format'
import { installation } from '../common/installation'
import { subjectOf } from '../common/list/asked'
import ProblemNote from '../common/ProblemNote.vue'
import { indicators } from '../common/queries/tally'
import { useTally } from '../common/useTally'
import { useAddress } from '../common/useAddress'
import TallyNav from './TallyNav.vue'
import TallyTools from './TallyTools.vue'
import { amount, signed } from './amounts'
import { changed } from './queries/looks'

type Of = Schemas['ChangeOf']
type Part = Schemas['ChangePart']

const { asked, heldTo, basis, past, along, read, change } = useTally()
const { to } = useAddress()
const indicator = computed(() => read('indicator') || 'cost_total')
const catalogue = useQuery(indicators())
/** Those that can be taken apart. */
const choices = computed(() =>
  (catalogue.data.value ?? []).filter((one) => one.roll_up === 'additive' || one.roll_up === 'union'),
)
const { data, error } = useQuery(() => ({
  ...changed({ ...asked.value, indicator: indicator.value }),
  placeholderData: keepPreviousData,
}))
const unit = computed(() => data.value?.unit ?? 'count')
const difference = computed(() => (data.value ? data.value.now - data.value.before : 0))
const words = computed(() => {
  const all = data.value
  if (!all) return ''
  const units = unit.value === 'money' ? ` ${installation.value.currency}` : ''
  if (!difference.value) return `${all.name}: ${amount(all.now, unit.value)}${units}, as before`
  const way = difference.value > 0 ? 'more' : 'less'
  return `${all.name}: ${amount(Math.abs(difference.value), unit.value)}${units} ${way}`
})
/** The greatest part of all, which bars are measured by. */
const most = computed(() =>
  Math.max(
    1,
    ...(data.value?.of ?? []).flatMap((of) => of.parts.map((part) => Math.abs(part.now - part.before))),
  ),
)
/** Parts of each that are told at once. */
const FEW = 8
const opened = computed(() => read('more').split(',').filter(Boolean))
const shown = (of: Of) => (opened.value.includes(of.dimension) ? of.parts : of.parts.slice(0, FEW))
const open = (of: Of) => change({ more: [...opened.value, of.dimension].join(',') })

const nameOf = (of: Of, part: Part) => {
  if (part.place === 'own') return 'itself'
  if (part.place === 'formerly_here') return 'formerly here'
  return part.name ? inWords(part.name) : 'none'
}
const day = (at: string) => at.slice(0, 19) + 'Z'
/** The rows of a part in one of the periods, now or before, as a list: of what stood, as of then. */
function rows(of: Of, part: Part, side: 0 | 1) {
  const all = data.value!
  const span = side ? all.before_span : all.span
  const stood = all.stood_at[side]
  const figure = {
    indicator: indicator.value,
    scope: asked.value.scope,
    from: day(span.start),
    to: day(span.end),
    basis: basis.value,
    held: heldTo.value,
    ...(part.place === 'own' && { part: 'own' }),
    ...(part.place === 'formerly_here' && { part: 'formerly_here' }),
    ...(part.place === 'asset' && { scope: part.value, under: asked.value.scope }),
  }
  const one = part.value ? { column: of.column, is: [part.value] } : { column: of.column, blank: true }
  const ask = { ...past.value, ...(stood && { as_of: stood }), figure, ...(of.column && { filter: [one] }) }
  return to(`/reports/${subjectOf[all.rows]}`, { ask: JSON.stringify(ask) })
}
const pick = (event: Event) => change({ indicator: (event.target as HTMLSelectElement).value })
const inside = (part: Part) => ({
  ...to('/tally/changed', { ...along.value, indicator: indicator.value }),
  part,
})
const deeper = (part: Part) => {
  const { path, query } = inside(part)
  return { path, query: { ...query, scope: part.value } }
}
</script>

<template>
  <TallyNav />
  <div class="head">
    <div>
      <h1 data-test="changed-words">{{ words || 'What changed' }}</h1>
      <p v-if="data" class="quiet">
        {{ amount(data.now, unit) }} in {{ date(data.span.start) }} –
        {{ date(Date.parse(data.span.end) - 1) }}, {{ amount(data.before, unit) }} in
        {{ date(data.before_span.start) }} – {{ date(Date.parse(data.before_span.end) - 1) }}. Each part below
        adds up to the difference.
      </p>
    </div>
  </div>
  <TallyTools>
    <label class="pick">
      What
      <select class="line" :value="indicator" data-test="changed-indicator" @change="pick">
        <option v-for="one in choices" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </label>
  </TallyTools>
  <ProblemNote :error="error" />
  <div v-if="data" class="taken">
    <section v-for="of in data.of" :key="of.dimension" :data-test="`changed-${of.dimension}`">
      <h2 class="ruled">{{ of.name }}</h2>
      <table>
        <thead class="small quiet">
          <tr>
            <th class="unseen">Part</th>
            <th class="num">before</th>
            <th class="num">now</th>
            <th class="num">difference</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in shown(of)" :key="part.value + part.place" data-test="changed-part">
            <td class="what">
              <RouterLink v-if="of.dimension === 'child' && part.place === 'asset'" :to="deeper(part)">{{
                nameOf(of, part)
              }}</RouterLink>
              <template v-else>{{ nameOf(of, part) }}</template>
              <span
                class="bar"
                :class="{ less: part.now < part.before, unseen: part.now === part.before }"
                :style="{ width: `${(100 * Math.abs(part.now - part.before)) / most}%` }"
              />
              <span
                v-if="part.by_price != null && part.rows_now && part.rows_before"
                class="small quiet split"
              >
                quantity {{ signed(part.by_quantity ?? 0, unit) }}, price {{ signed(part.by_price, unit) }}
              </span>
            </td>
            <td class="num">
              <RouterLink
                v-if="part.rows_before"
                :to="rows(of, part, 1)"
                :title="`${whole(part.rows_before)} rows`"
              >
                {{ amount(part.before, unit) }}
              </RouterLink>
              <span v-else class="quiet">0</span>
            </td>
            <td class="num">
              <RouterLink
                v-if="part.rows_now"
                :to="rows(of, part, 0)"
                :title="`${whole(part.rows_now)} rows`"
                data-test="changed-rows"
              >
                {{ amount(part.now, unit) }}
              </RouterLink>
              <span v-else class="quiet">0</span>
            </td>
            <td class="num">
              <strong>{{ signed(part.now - part.before, unit) }}</strong>
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="shown(of).length < of.parts.length" class="act" @click="open(of)">
        {{ whole(of.parts.length - shown(of).length) }} more
      </button>
      <p v-if="!of.parts.length" class="quiet small">Nothing in either period.</p>
    </section>
  </div>
  <EmptyState v-else-if="!error" title="Two periods are compared"> Choose a figure above. </EmptyState>
</template>

<style scoped>
.head p {
  margin: 3px 0 0;
}

.pick {
  display: flex;
  gap: 6px;
  align-items: baseline;
  font-size: 14px;
  color: var(--ink-2);
}

.pick .line {
  width: auto;
}

.taken {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(430px, 100%), 1fr));
  gap: 18px 34px;
  margin-top: 14px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  padding-left: 12px;
  font-weight: 400;
  text-align: right;
}

td {
  padding: 4px 0 4px 12px;
  border-bottom: 1px solid var(--rule);
  vertical-align: baseline;
  white-space: nowrap;
  text-align: right;
}

.what {
  width: 99%;
  padding-left: 0;
  text-align: left;
  white-space: normal;
}

.bar {
  display: block;
  height: 5px;
  min-width: 2px;
  margin-top: 2px;
  background: var(--worse);
  opacity: 0.75;
}

.bar.less {
  background: var(--better);
}

.split {
  display: block;
}

.unseen {
  opacity: 0;
}
</style>
