<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { ChevronLeft, ChevronRight } from '@lucide/vue'
import { computed, ref } from 'vue'
import type { Schemas } from '../../common/api'
import { useChange } from '../../common/change/useChange'
import EmptyState from '../../common/EmptyState.vue'
import { count, dayOf, localDate, stateWords, tenth, weekday, whole } from '../../common/format'
import ProblemNote from '../../common/ProblemNote.vue'
import { useAddress } from '../../common/useAddress'
import WorkNav from '../WorkNav.vue'
import { placeWork } from '../changes'
import { week } from '../queries/orders'
import WeekCard from './WeekCard.vue'
import { useCardDrag } from '../useCardDrag'
import { type Place, placeKey, placeOf } from './place'

type Crew = Schemas['WeekCrew']
type Day = Schemas['WeekDay']
interface Card {
  number: number
  title: string
}

const { scope, read, change, to } = useAddress()
const { data: board, error } = useQuery(() => ({
  ...week(scope.value, read('day')),
  placeholderData: keepPreviousData,
}))
const place = useChange(placeWork, () => (open.value = undefined))
const drop = (card: Card, at: Place) =>
  place.mutate({ number: card.number, crew: at.crew, date: at.date, title: card.title })
const { dragged, begin } = useCardDrag<Card>((card, key) => drop(card, placeOf(key)))
/** The card whose menu is open, with the place it lies in. */
const open = ref<string>()

const days = computed(() => board.value?.crews[0]?.days.map((day) => day.date) ?? [])
const share = (day: Day) =>
  day.capacity_hours > 0
    ? Math.min(100, (100 * day.load_hours) / day.capacity_hours)
    : day.load_hours > 0
      ? 100
      : 0
const isDayOff = (day: string) =>
  board.value?.crews.every(
    (crew) =>
      !crew.days.find((one) => one.date === day)?.capacity_hours &&
      !crew.days.find((one) => one.date === day)?.orders.length,
  )
const widths = computed(() => days.value.map((day) => (isDayOff(day) ? '38px' : 'minmax(0, 1fr)')).join(' '))
const keyOf = (crew: Crew, day: Day) => placeKey({ crew: crew.code ?? undefined, date: day.date })
</script>

<template>
  <div class="screen">
    <WorkNav />
    <div class="head">
      <h1 v-if="board" data-test="week-head">
        Week {{ board.number }}
        <span class="dates">{{ localDate(board.monday) }} – {{ localDate(days[6] ?? board.monday) }}</span>
      </h1>
      <div v-if="board" class="tools no-print">
        <button class="act" aria-label="The week before" @click="change({ day: board.before })">
          <ChevronLeft :size="18" />
        </button>
        <button class="act" :disabled="board.today != null" @click="change({ day: '' })">This week</button>
        <button class="act" aria-label="The week after" @click="change({ day: board.after })">
          <ChevronRight :size="18" />
        </button>
      </div>
    </div>
    <p v-if="board" class="quiet totals">
      {{ tenth(board.load_hours) }} of {{ whole(board.capacity_hours) }} h given out ·
      <span :class="{ worse: board.days_over }"
        >{{ count(board.days_over, 'day', 'days') }} over what a crew can do</span
      >
      · {{ board.undated }} without a day
    </p>
    <ProblemNote :error="error ?? place.error.value" />
    <div v-if="board" class="planning">
      <div class="board" role="table" aria-label="The week by crew and day" :style="{ '--days': widths }">
        <div class="line heads" role="row">
          <span role="columnheader">Crew</span>
          <span v-for="day in days" :key="day" role="columnheader" :class="{ today: day === board.today }"
            >{{ weekday(day) }} <span v-if="!isDayOff(day)" class="quiet">{{ dayOf(day) }}</span></span
          >
        </div>
        <div
          v-for="crew in board.crews"
          :key="crew.code ?? ''"
          class="line"
          role="row"
          :data-test="`crew-${crew.code ?? 'none'}`"
        >
          <div role="rowheader" class="crew">
            <strong>{{ crew.name }}</strong>
            <span class="small" :class="crew.is_over ? 'worse' : 'quiet'">
              {{ tenth(crew.load_hours) }} / {{ tenth(crew.capacity_hours) }} h
            </span>
            <span v-if="crew.backlog_weeks != null" class="quiet small">
              backlog {{ tenth(crew.backlog_weeks) }} wk
            </span>
            <span v-if="crew.ready_weeks != null" class="quiet small"
              >ready {{ tenth(crew.ready_weeks) }} wk</span
            >
          </div>
          <div
            v-for="day in crew.days"
            :key="day.date"
            role="cell"
            class="cell"
            :class="{
              over: dragged?.over === keyOf(crew, day),
              today: day.date === board.today,
              off: !day.capacity_hours,
            }"
            :data-place="keyOf(crew, day)"
            :data-test="`cell-${crew.code ?? 'none'}-${day.date}`"
          >
            <span class="name small">{{ weekday(day.date) }} {{ dayOf(day.date) }}</span>
            <div v-if="day.capacity_hours || day.load_hours" class="load" :class="{ worse: day.is_over }">
              <i :style="{ width: `${share(day)}%` }" />
              <span
                >{{ tenth(day.load_hours)
                }}<template v-if="day.capacity_hours"> / {{ tenth(day.capacity_hours) }}</template></span
              >
            </div>
            <WeekCard
              v-for="one in day.orders"
              :key="one.number"
              :number="one.number"
              :title="one.title"
              :asset="one.asset"
              :rank="one.risk_rank"
              :hours="one.hours"
              :says="[one.assignee ?? '', one.goes_on ? 'goes on' : ''].filter(Boolean).join(' · ')"
              :conflicts="one.conflicts"
              :late="one.conflicts.length > 0"
              :at="{ crew: crew.code ?? undefined, date: day.date }"
              :board="board"
              :busy="place.isPending.value"
              :open="open === `${one.number}|${day.date}`"
              @pointerdown="board.may_plan && begin($event, one, keyOf(crew, day))"
              @update:open="open = $event ? `${one.number}|${day.date}` : undefined"
              @move="drop(one, $event)"
            />
          </div>
        </div>
      </div>
      <section
        class="queue"
        aria-label="Without a day"
        data-place=""
        :class="{ over: dragged?.over === '' }"
        data-test="queue"
      >
        <h2>
          No day yet <span class="quiet small">{{ board.undated }}</span>
        </h2>
        <WeekCard
          v-for="one in board.queue"
          :key="one.number"
          :number="one.number"
          :title="one.title"
          :asset="one.asset"
          :rank="one.risk_rank"
          :hours="one.estimated_hours"
          :says="
            [
              one.crew ?? 'no crew',
              one.state === 'ready' ? '' : stateWords[one.state],
              one.over_limit ? 'over its limit' : '',
              one.past_window ? 'past its window' : '',
            ]
              .filter(Boolean)
              .join(' · ')
          "
          :late="one.over_limit || one.past_window"
          :at="{ crew: one.crew ?? undefined }"
          :board="board"
          :busy="place.isPending.value"
          :open="open === `${one.number}|`"
          @pointerdown="board.may_plan && begin($event, one, '')"
          @update:open="open = $event ? `${one.number}|` : undefined"
          @move="drop(one, $event)"
        />
        <EmptyState v-if="!board.queue.length" title="All work has its day">
          What is raised and waits for nothing comes here.
        </EmptyState>
        <RouterLink
          v-if="board.undated > board.queue.length"
          :to="to('/work', { state: 'raised,planning,ready' })"
          class="act"
        >
          All {{ board.undated }}
        </RouterLink>
      </section>
    </div>
    <div v-if="dragged" class="ghost" :style="{ left: `${dragged.x + 8}px`, top: `${dragged.y + 8}px` }">
      {{ dragged.card.title }}
    </div>
  </div>
</template>

<style scoped>
.dates {
  margin-left: 10px;
  color: var(--ink-2);
  font: 400 16px var(--sans);
}

.tools {
  display: flex;
  gap: 8px;
  align-items: center;
}

.totals {
  margin: 3px 0 12px;
}

.worse {
  color: var(--worse);
  font-weight: 600;
}

.planning {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 208px;
  gap: 18px;
  align-items: start;
}

.line {
  display: grid;
  grid-template-columns: 104px var(--days);
  border-bottom: 1px solid var(--rule);
}

.heads {
  border-bottom: 1.5px solid var(--ink);
  font-weight: 600;
  font-size: 13px;
}

.heads > * {
  padding: 4px 5px;
  overflow: hidden;
  white-space: nowrap;
}

.heads .quiet {
  font-weight: 400;
}

.today {
  background: var(--paper-2);
}

.crew {
  display: flex;
  flex-direction: column;
  padding: 6px 6px 8px 0;
}

.cell {
  min-width: 0;
  min-height: 74px;
  padding: 5px 4px 8px;
  border-left: 1px solid var(--rule);
}

.off {
  background: repeating-linear-gradient(135deg, transparent 0 6px, var(--paper-2) 6px 7px);
}

.over {
  outline: 2px solid var(--accent);
  outline-offset: -2px;
}

.load {
  position: relative;
  font-size: 12px;
  text-align: right;
  padding: 0 2px 3px;
  border-bottom: 3px solid var(--rule);
}

.load i {
  position: absolute;
  left: 0;
  bottom: -3px;
  height: 3px;
  background: var(--accent);
}

.load.worse i {
  background: var(--worse);
}

.queue {
  min-height: 200px;
  padding: 0 0 12px;
}

.queue h2 {
  font-size: 16px;
  border-bottom: 1.5px solid var(--ink);
  padding-bottom: 4px;
}

.ghost {
  position: fixed;
  z-index: 40;
  max-width: 190px;
  padding: 5px 9px;
  background: var(--paper);
  border: 1.5px solid var(--accent);
  font-size: 13px;
  font-weight: 600;
  pointer-events: none;
}

.name {
  display: none;
}

@media (max-width: 1000px) {
  .planning {
    grid-template-columns: minmax(0, 1fr);
  }

  .line {
    grid-template-columns: minmax(0, 1fr);
  }

  .heads,
  .off:not(:has([data-test])) {
    display: none;
  }

  .name {
    display: block;
    font-weight: 600;
  }

  .cell {
    min-height: 0;
    border-left: 0;
  }

  .load {
    margin-top: -20px;
  }
}
</style>
