<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../../common/api'
import { useChange } from '../../common/change/useChange'
import EmptyState from '../../common/EmptyState.vue'
import { count, localDate, tenth, whole } from '../../common/format'
import ProblemNote from '../../common/ProblemNote.vue'
import { useAddress } from '../../common/useAddress'
import WorkNav from '../WorkNav.vue'
import { moveCycles } from '../changes'
import { levelling, yearAhead } from '../queries/upkeep'
import { everyWords } from '../every'
import { useCardDrag } from '../useCardDrag'
import LevellingPanel from './LevellingPanel.vue'
import YearLane from './YearLane.vue'
import YearStrip from './YearStrip.vue'
import { monthsOf, movesOf } from './weeks'

type Plan = Schemas['YearPlan']
type Cycle = Schemas['YearCycle']
interface Card {
  plan: Plan
  cycle: Cycle
}

const { scope, read, change, to } = useAddress()
const week = computed(() => (read('week') ? Number(read('week')) : undefined))
/** The crew whose plans are told, as asked for; all at first. */
const crew = computed(() => (read('crew') ? read('crew').replace(/^none$/, '') : undefined))
const { data: year, error } = useQuery(() => ({
  ...yearAhead(scope.value, crew.value, week.value),
  placeholderData: keepPreviousData,
}))
const proposing = ref(false)
const { data: proposed, error: unlevelled } = useQuery(() => ({
  ...levelling(scope.value),
  enabled: proposing.value,
}))
const shown = computed(() => (proposing.value ? proposed.value : undefined))
const move = useChange(moveCycles)
const levelled = useChange(moveCycles, () => (proposing.value = false))

const months = computed(() => monthsOf(year.value?.weeks ?? []))
/** The fullest week of all, as a share of what its crew can do. */
const top = computed(() =>
  Math.max(1.2, ...(year.value?.crews ?? []).map((one) => one.peak_hours / (one.capacity_hours || 40))),
)
const fullest = computed(() =>
  [...(year.value?.crews ?? [])]
    .sort((a, b) => b.peak_hours / (b.capacity_hours || 1) - a.peak_hours / (a.capacity_hours || 1))
    .find((one) => one.peak_hours),
)
const keyOf = (code?: string | null) => code ?? 'none'
const afterOf = (code?: string | null) =>
  shown.value?.crews.find((one) => one.code === code)?.load_after_hours

/** Later cycles of the plan go along with the one that is moved. */
const along = ref(false)
const drop = ({ plan, cycle }: Card, on?: string) =>
  on &&
  move.mutate({
    says: `${plan.name}: ${localDate(on)}`,
    moves: movesOf(plan, cycle, on, along.value),
  })
const { dragged, begin } = useCardDrag<Card>((card, key) =>
  drop(card, card.cycle.places[key.split('|').at(-1) ?? '']),
)
const isDragged = (plan: Plan) =>
  dragged.value?.card.plan.code === plan.code && dragged.value.card.plan.asset.code === plan.asset.code
    ? { number: dragged.value.card.cycle.number, over: dragged.value.over }
    : undefined
function take() {
  const moves = shown.value?.moves ?? []
  levelled.mutate({
    says: `${count(moves.length, 'cycle', 'cycles')} moved`,
    moves: moves.map(({ plan, asset, number, to: on }) => ({ plan, asset: asset.code, number, to: on })),
  })
}
</script>

<template>
  <div class="screen">
    <WorkNav />
    <div class="head">
      <h1>The year ahead</h1>
      <div v-if="year?.may_plan" class="tools no-print">
        <ElButton
          v-if="!proposing"
          type="primary"
          :disabled="!year.crews.length"
          data-test="level"
          @click="proposing = true"
        >
          Level it
        </ElButton>
        <RouterLink :to="to('/setup/upkeep-plans')" class="act">Plans</RouterLink>
      </div>
    </div>
    <p v-if="year?.crews.length" class="totals" data-test="year-says">
      <strong :class="{ worse: year.weeks_over }">{{
        year.weeks_over
          ? `${count(year.weeks_over, 'week holds', 'weeks hold')} more upkeep than a crew can do.`
          : 'No week holds more upkeep than a crew can do.'
      }}</strong>
      <template v-if="fullest">
        The fullest: {{ fullest.name }}, week of {{ localDate(year.weeks[fullest.peak_week] ?? '') }},
        {{ whole(fullest.peak_hours) }} of {{ whole(fullest.capacity_hours) }} h.
      </template>
    </p>
    <ProblemNote :error="error ?? unlevelled ?? move.error.value ?? levelled.error.value" />
    <EmptyState v-if="year && !year.crews.length" title="No upkeep is planned here">
      What is set up as an upkeep plan, and active, makes its work by itself and stands here a year ahead.
      <RouterLink v-if="year.may_plan" :to="to('/setup/upkeep-plans')" class="act">Set one up</RouterLink>
    </EmptyState>
    <template v-if="year?.crews.length">
      <div class="grid heads small">
        <span>Hours a week, by crew</span>
        <div class="months">
          <span v-for="one in months" :key="one.column" :style="{ gridColumn: one.column }">{{
            one.name
          }}</span>
        </div>
      </div>
      <div v-for="one in year.crews" :key="keyOf(one.code)" class="grid crew">
        <button
          class="name"
          :class="{ chosen: crew === (one.code ?? '') }"
          :aria-pressed="crew === (one.code ?? '')"
          :data-test="`year-crew-${keyOf(one.code)}`"
          @click="change({ crew: crew === (one.code ?? '') ? '' : keyOf(one.code), week: '' })"
        >
          <strong>{{ one.name }}</strong>
          <span class="quiet small">{{ whole(one.capacity_hours) }} h a week</span>
          <span class="small" :class="one.weeks_over ? 'worse' : 'quiet'">{{
            one.weeks_over ? `${count(one.weeks_over, 'week', 'weeks')} over` : 'never over'
          }}</span>
        </button>
        <YearStrip
          :crew="one"
          :weeks="year.weeks"
          :top="top"
          :levelled="afterOf(one.code)"
          :week="week"
          :chosen="crew === undefined || crew === (one.code ?? '')"
          @pick="
            change({
              crew: keyOf(one.code),
              week: week === $event && crew === (one.code ?? '') ? '' : String($event),
            })
          "
        />
      </div>
      <LevellingPanel
        v-if="shown"
        :proposed="shown"
        :busy="levelled.isPending.value"
        @take="take"
        @close="proposing = false"
      />
      <h2 class="plans">
        {{ count(year.plans_in_all, 'plan', 'plans') }}
        <span class="quiet small">
          {{ week === undefined ? '' : `with a cycle in the week of ${localDate(year.weeks[week] ?? '')}` }}
          <button
            v-if="week !== undefined || crew !== undefined"
            class="act"
            @click="change({ crew: '', week: '' })"
          >
            All
          </button>
        </span>
        <label v-if="year.may_plan" class="along small no-print">
          <input v-model="along" type="checkbox" name="along" /> later cycles go along
        </label>
        <span class="key quiet small no-print">
          <i class="dot" /> by days <i class="dot counter" /> by counter <i class="dot moved" /> moved
          <i class="dot open" /> work is open
        </span>
      </h2>
      <div
        v-for="plan in year.plans"
        :key="`${plan.code} ${plan.asset.code}`"
        class="grid plan"
        :data-test="`plan-${plan.code}`"
      >
        <div class="what">
          <RouterLink
            v-if="year.may_plan"
            :to="to(`/setup/upkeep-plans/${plan.code}`)"
            class="title"
            :title="plan.name"
            >{{ plan.name }}</RouterLink
          >
          <span v-else class="title">{{ plan.name }}</span>
          <span class="quiet small"
            >{{ plan.asset.name }}{{ plan.within ? `, ${plan.within}` : '' }} · {{ everyWords(plan)
            }}<template v-if="plan.hours"> · {{ tenth(plan.hours) }} h</template></span
          >
        </div>
        <YearLane
          :plan="plan"
          :may-plan="year.may_plan"
          :busy="move.isPending.value"
          :dragged="isDragged(plan)"
          :week="week"
          @begin="
            (event, cycle) =>
              begin(event, { plan, cycle }, `${plan.code}|${plan.asset.code}|${cycle.number}|${cycle.week}`)
          "
          @move="(cycle, on) => drop({ plan, cycle }, on)"
        />
      </div>
      <p v-if="year.plans.length < year.plans_in_all" class="quiet small">
        The first {{ year.plans.length }} of {{ year.plans_in_all }}: choose a crew or a week for the others.
      </p>
    </template>
    <div v-if="dragged" class="ghost" :style="{ left: `${dragged.x + 10}px`, top: `${dragged.y + 12}px` }">
      {{ dragged.card.plan.name }}
    </div>
  </div>
</template>

<style scoped>
.along {
  display: flex;
  gap: 6px;
  align-items: baseline;
  font: 400 13px var(--sans);
}

.tools {
  display: flex;
  gap: 14px;
  align-items: center;
}

.totals {
  margin: 3px 0 12px;
}

.worse {
  color: var(--worse);
  font-weight: 600;
}

.grid {
  display: grid;
  grid-template-columns: 268px minmax(0, 1fr);
  gap: 14px;
  border-bottom: 1px solid var(--rule);
}

.heads {
  border-bottom: 1.5px solid var(--ink);
  font-weight: 600;
}

.months {
  display: grid;
  grid-template-columns: repeat(52, minmax(0, 1fr));
}

.months span {
  white-space: nowrap;
}

.crew {
  align-items: end;
}

.name {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  align-self: stretch;
  align-content: center;
  padding: 4px 6px 4px 0;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
  font: inherit;
  color: inherit;
}

.name strong {
  grid-column: 1 / -1;
}

.name:hover strong,
.name.chosen strong {
  color: var(--accent);
}

.plans {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin: 18px 0 4px;
  padding-bottom: 4px;
  border-bottom: 1.5px solid var(--ink);
  font-size: 16px;
}

.key {
  display: flex;
  gap: 5px;
  align-items: center;
  margin-left: auto;
  font-family: var(--sans);
  font-weight: 400;
}

.dot {
  width: 10px;
  height: 10px;
  margin-left: 8px;
  background: var(--accent);
  border: 1.5px solid var(--accent);
  border-radius: 50%;
}

.dot.counter {
  background: var(--paper);
}

.dot.moved {
  border-color: var(--ink);
}

.dot.open {
  background: var(--ink);
  border-color: var(--ink);
  border-radius: 0;
}

.plan {
  align-items: center;
  padding: 3px 0;
}

.what {
  display: flex;
  flex-direction: column;
  min-width: 0;
}

.what > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.ghost {
  position: fixed;
  z-index: 40;
  max-width: 220px;
  padding: 4px 8px;
  background: var(--paper);
  border: 1.5px solid var(--accent);
  font-size: 13px;
  font-weight: 600;
  pointer-events: none;
}

@media (max-width: 1000px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
  }

  .key {
    display: none;
  }
}
</style>
