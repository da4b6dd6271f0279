<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import { inShort } from '../common/format'
import { now } from '../common/installation'
import { indicators } from '../common/queries/tally'
import { useTally } from '../common/useTally'
import TallyNav from './TallyNav.vue'
import TallyTools from './TallyTools.vue'
import YearChart from './YearChart.vue'

/** Counts and sums by month, a line a year: one figure, or two on a page. */
const { read, change } = useTally()
const catalogue = useQuery(indicators())
/** What happened in a month, and can be added up. */
const choices = computed(() =>
  (catalogue.data.value ?? []).filter(
    (one) => (one.roll_up === 'additive' || one.roll_up === 'union') && one.course === 'flow',
  ),
)
const of = computed(() => (read('of') || 'cost_total').split(','))
const YEARS = 6
const last = computed(() => new Date(now.value).getUTCFullYear())
const all = computed(() => Array.from({ length: YEARS }, (_, back) => String(last.value - back)))
const years = computed(() => {
  const chosen = read('years').split(',').filter(Boolean)
  return [...(chosen.length ? chosen : all.value.slice(0, 4))].sort()
})
const toggle = (year: string) =>
  change({
    years: (years.value.includes(year)
      ? years.value.filter((one) => one !== year)
      : [...years.value, year]
    ).join(','),
  })
function pick(place: number, event: Event) {
  const next = [...of.value]
  const id = (event.target as HTMLSelectElement).value
  if (id) next[place] = id
  else next.splice(place, 1)
  change({ of: next.join(',') })
}
const print = () => window.print()
const definitions = computed(() => of.value.flatMap((id) => choices.value.filter((one) => one.id === id)))
</script>

<template>
  <TallyNav />
  <div class="head">
    <h1>Year by year</h1>
    <button class="act no-print" data-test="print-years" @click="print()">Print</button>
  </div>
  <TallyTools :compares="false">
    <FacetMenu name="Years" :chosen="inShort(years)" data-test="years">
      <FacetCheck
        v-for="year in all"
        :key="year"
        :name="year"
        :checked="years.includes(year)"
        @toggle="toggle(year)"
      />
    </FacetMenu>
    <label v-for="place in [0, 1]" :key="place" class="pick">
      {{ place ? 'and' : 'What' }}
      <select
        class="line"
        :value="of[place] ?? ''"
        :data-test="`year-of-${place}`"
        @change="pick(place, $event)"
      >
        <option v-if="place" value="">nothing more</option>
        <option v-for="one in choices" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </label>
  </TallyTools>
  <YearChart v-for="one in definitions" :key="one.id" :definition="one" :years="years" />
</template>

<style scoped>
.pick {
  display: flex;
  gap: 6px;
  align-items: baseline;
  font-size: 14px;
  color: var(--ink-2);
}

.pick .line {
  width: auto;
  max-width: 190px;
}
</style>
