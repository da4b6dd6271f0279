<script setup lang="ts">
import { figures } from '../queries/tally'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { X } from '@lucide/vue'
import { onKeyStroke } from '@vueuse/core'
import { computed } from 'vue'
import { type WhyView } from '../api'
import { date, dateTime, duration, figure, money, unitOf, whole } from '../format'
import { installation } from '../installation'
import { subjectOf } from '../list/asked'
import ProblemNote from '../ProblemNote.vue'
import { useAddress } from '../useAddress'
import { useTally } from '../useTally'
import { useWhy } from '../useWhy'

const { to } = useAddress()
const { asked: ofTally, basis, period, past, heldTo } = useTally()
/** As the figure is asked for, but for where. */
const asOfTally = computed(() => ({ ...ofTally.value, scope: asked.value?.asset }))
const { asked, close } = useWhy()

const { data, error, isFetching } = useQuery(() => ({
  ...figures({
    under: asked.value?.under,
    part: asked.value?.part,
    indicators: asked.value?.indicator,
    ...asOfTally.value,
    depth: 0,
    why: true,
  }),
  enabled: asked.value !== undefined,
  placeholderData: keepPreviousData,
}))
const why = computed(() => data.value?.why?.[0])
const ofWords = computed(() => {
  const name = why.value?.asset.name ?? ''
  if (asked.value?.part === 'own') return `${name} itself`
  if (asked.value?.part === 'formerly_here') return `what was formerly below ${name}`
  return name
})

type Part = WhyView['parts'][number]
function amount(part: Part, value: number): string {
  if (part.unit === 'money') return money(value)
  if (part.unit === 'ms') return duration(value)
  return String(value)
}
const names = {
  entry: 'entries',
  downtime: 'downtimes',
  failure: 'failures',
  work_order: 'work orders',
  alarm: 'alarms',
  cycle: 'cycles of upkeep',
}
/** The lists of all rows, one for each kind of them. */
const lists = computed(() => {
  const counts = new Map<keyof typeof subjectOf, number>()
  for (const { rows, more_rows } of why.value?.parts ?? []) {
    const kind = rows[0]?.kind
    if (kind) counts.set(kind, (counts.get(kind) ?? 0) + rows.length + more_rows)
  }
  const { indicator, asset: scope, under, part } = asked.value ?? {}
  const held = heldTo.value
  const figure = { indicator, scope, under, part, period: period.value, basis: basis.value, held }
  return [...counts].map(([kind, count]) => ({
    kind,
    name: `${whole(count)} ${names[kind]} as a list`,
    to: to(`/reports/${subjectOf[kind]}`, { ask: JSON.stringify({ ...past.value, figure }) }),
  }))
})
const BANDS = ['0–7 days', '8–30', '31–90', '91–180', 'more']
const bands = (counts: number[]) =>
  counts.map((count, place) => `${BANDS[place]}: ${whole(count)}`).join(' · ')
const units = { money: () => installation.value.currency, ms: () => '', count: () => '' }

onKeyStroke('Escape', () => asked.value && close())
</script>

<template>
  <aside v-if="asked" v-arrive class="why no-print" aria-label="Why" :aria-busy="isFetching">
    <button class="plain close" aria-label="Close" title="Close ( Esc )" @click="close">
      <X :size="18" />
    </button>
    <ProblemNote :error="error" />
    <template v-if="why">
      <p class="kicker">Why</p>
      <h2>{{ why.name }} of {{ ofWords }}</h2>
      <p class="figure" data-test="why-figure">
        {{ figure(why.figure, why) }}
        <span class="quiet">{{ unitOf(why) }}</span>
      </p>
      <p class="quiet small">{{ date(why.from) }} – {{ date(Date.parse(why.to) - 1) }}</p>
      <p v-if="why.figure.settled != null" class="small split">
        settled {{ money(why.figure.settled) }}, provisional {{ money(why.figure.provisional ?? 0) }}
      </p>
      <p v-if="why.figure.at_least != null" class="small">
        No critical failure in the period, so the mean is at least the operating time.
      </p>
      <p v-if="why.figure.ninth != null" class="small">
        Nine of ten stay below {{ figure({ value: why.figure.ninth }, why) }} {{ unitOf(why) }}.
      </p>
      <p v-if="why.figure.bands" class="small">
        {{ bands(why.figure.bands) }}
      </p>
      <p v-if="why.figure.incipient" class="small">{{ why.figure.incipient }} incipient, not counted.</p>
      <dl>
        <dt>Formula</dt>
        <dd>{{ why.formula }}.</dd>
        <dt>Source</dt>
        <dd>{{ why.source }}</dd>
        <template v-for="input in why.inputs" :key="input.name">
          <dt>{{ input.name }}</dt>
          <dd>{{ figure({ value: input.value }, input) }} {{ unitOf(input) }}, {{ input.note }}</dd>
        </template>
      </dl>
      <p v-if="lists.length" class="lists">
        <RouterLink v-for="one in lists" :key="one.kind" :to="one.to" class="act" data-test="why-list">
          {{ one.name }}
        </RouterLink>
      </p>
      <section v-for="part in why.parts" :key="part.name">
        <h3>
          {{ part.name }}
          <span data-test="why-total">{{ amount(part, part.total) }} {{ units[part.unit]() }}</span>
        </h3>
        <ol>
          <li v-for="row in part.rows" :key="row.kind + row.id">
            <RouterLink
              v-if="row.work_order"
              :to="to(`/work/${row.work_order}`)"
              class="what"
              data-test="why-row"
            >
              {{ row.text }}
            </RouterLink>
            <span v-else class="what">{{ row.text }}</span>
            <span class="amount">{{ amount(part, row.amount) }}</span>
            <span class="where">
              {{ row.asset.name }} · {{ dateTime(row.at) }}
              <template v-if="row.settled === false"> · provisional</template>
            </span>
            <span v-if="row.whole != null" class="where end">of {{ amount(part, row.whole) }}</span>
          </li>
          <li v-if="part.more_rows" class="more">
            <span class="what">{{ part.more_rows }} smaller rows</span>
            <span class="amount">{{ amount(part, part.more_amount) }}</span>
          </li>
        </ol>
        <p v-if="!part.rows.length && part.total" class="quiet small">
          The rows behind it are for those who see the work.
        </p>
        <p v-else-if="!part.rows.length" class="quiet small">Nothing in the period.</p>
      </section>
      <p v-if="!why.parts.length" class="quiet">Nothing in the period.</p>
      <p class="quiet small foot">True for change {{ why.change }} of the data.</p>
    </template>
  </aside>
</template>

<style scoped>
.why {
  position: fixed;
  top: 54px;
  right: 0;
  bottom: 0;
  width: min(420px, 100vw);
  z-index: 15;
  overflow: auto;
  padding: 20px 24px 40px;
  background: var(--paper);
  border-left: 1.5px solid var(--ink);
}

.why:focus {
  outline: 0;
}

.close {
  position: absolute;
  top: 16px;
  right: 16px;
  display: grid;
}

.kicker {
  margin: 0 0 4px;
  font-size: 13px;
  font-weight: 600;
  color: var(--accent);
}

h2 {
  padding-right: 24px;
}

.figure {
  font: 600 34px/1.1 var(--serif);
  font-variant-numeric: tabular-nums lining-nums;
  margin: 14px 0 2px;
}

.figure span {
  font-size: 17px;
  font-weight: 400;
}

p {
  margin: 2px 0;
}

dl {
  margin: 14px 0 6px;
  padding: 12px 0;
  border-block: 1px solid var(--rule);
  font-size: 13.5px;
}

dt {
  font-weight: 600;
  color: var(--ink-2);
  font-size: 13px;
}

dd {
  margin: 0 0 7px;
}

.lists {
  display: flex;
  gap: 18px;
}

section {
  margin-top: 16px;
}

h3 {
  display: flex;
  justify-content: space-between;
  border-bottom: 1.5px solid var(--ink);
  padding-bottom: 4px;
}

h3 span {
  font-family: var(--sans);
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 12px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.where {
  font-size: 13px;
  color: var(--ink-2);
}

.amount,
.end {
  text-align: right;
}

.more {
  color: var(--ink-2);
}

.foot {
  margin-top: 20px;
}
</style>
