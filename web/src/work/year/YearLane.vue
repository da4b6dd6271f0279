<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../common/api'
import ChoiceField from '../../common/fields/ChoiceField.vue'
import { localDate } from '../../common/format'
import { useAddress } from '../../common/useAddress'

type Cycle = Schemas['YearCycle']

/** The cycles of one plan by week: moved by hand to the weeks it may go to, or by a menu. */
const props = defineProps<{
  plan: Schemas['YearPlan']
  mayPlan: boolean
  busy: boolean
  /** The cycle on its way, and the place it is over. */
  dragged?: { number: number; over?: string }
  week?: number
}>()
const emit = defineEmits<{ begin: [event: PointerEvent, cycle: Cycle]; move: [cycle: Cycle, to: string] }>()
const { to } = useAddress()

const place = (cycle: Cycle, week: number | string) =>
  `${props.plan.code}|${props.plan.asset.code}|${cycle.number}|${week}`
const weeks = (cycle: Cycle) => Object.keys(cycle.places).map(Number)
const mayMove = (cycle: Cycle) => props.mayPlan && weeks(cycle).length > 1
/** The cycle whose menu is open. */
const open = ref<number>()
const chosen = ref('')
function show(cycle: Cycle) {
  open.value = open.value === cycle.number ? undefined : cycle.number
  chosen.value = String(cycle.week)
}
function says(cycle: Cycle): string {
  const by = cycle.by === 'counter' ? 'about ' : ''
  const moved = cycle.is_moved ? `, moved from ${localDate(cycle.due)}` : ''
  const between =
    cycle.earliest_week < cycle.latest_week ? ', as its counter goes on; the line says how early or late' : ''
  return cycle.work_order
    ? `Work ${cycle.work_order} is open, for ${localDate(cycle.on)}`
    : `${by}${localDate(cycle.on)}${moved}${between}`
}
</script>

<template>
  <div class="lane">
    <i v-if="week !== undefined" class="here" :style="{ gridColumn: week + 1 }" />
    <template v-for="cycle in plan.cycles" :key="`${cycle.work_order ?? ''} ${cycle.number}`">
      <i
        v-if="!cycle.work_order && cycle.earliest_week < cycle.latest_week"
        class="spread"
        :style="{ gridColumn: `${cycle.earliest_week + 1} / ${cycle.latest_week + 2}` }"
      />
      <template v-if="dragged?.number === cycle.number">
        <i
          v-for="one in weeks(cycle)"
          :key="one"
          class="target"
          :class="{ over: dragged.over === place(cycle, one) }"
          :style="{ gridColumn: one + 1 }"
          :data-place="place(cycle, one)"
        />
      </template>
      <RouterLink
        v-if="cycle.work_order"
        :to="to(`/work/${cycle.work_order}`)"
        class="mark open"
        :style="{ gridColumn: cycle.week + 1 }"
        :title="says(cycle)"
        :aria-label="says(cycle)"
      />
      <button
        v-else
        type="button"
        class="mark"
        :class="{ moved: cycle.is_moved, fixed: !mayMove(cycle), counter: cycle.by === 'counter' }"
        :tabindex="mayMove(cycle) ? 0 : -1"
        :style="{ gridColumn: cycle.week + 1 }"
        :title="says(cycle)"
        :aria-label="`Cycle ${cycle.number}, ${says(cycle)}`"
        :aria-disabled="!mayMove(cycle)"
        :data-test="`cycle-${plan.code}-${cycle.number}`"
        @pointerdown="mayMove(cycle) && emit('begin', $event, cycle)"
        @click="mayMove(cycle) && show(cycle)"
        @keydown.esc.stop="open = undefined"
      />
      <form
        v-if="open === cycle.number && !cycle.work_order"
        v-arrive
        class="move"
        :class="{ left: cycle.week > 36 }"
        :style="{ gridColumn: cycle.week + 1 }"
        @submit.prevent="(emit('move', cycle, cycle.places[chosen]!), (open = undefined))"
        @keydown.esc.stop="open = undefined"
      >
        <p class="small quiet">Due {{ localDate(cycle.due) }}</p>
        <ChoiceField v-model="chosen" label="Move to" name="move-to">
          <option v-for="one in weeks(cycle)" :key="one" :value="String(one)">
            {{ localDate(cycle.places[one]!) }}
          </option>
        </ChoiceField>
        <p>
          <ElButton size="small" type="primary" native-type="submit" :loading="busy" data-test="move-cycle"
            >Move</ElButton
          >
          <button type="button" class="act" @click="open = undefined">Cancel</button>
        </p>
      </form>
    </template>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  display: grid;
  grid-template-columns: repeat(52, minmax(0, 1fr));
  grid-template-rows: 26px;
  align-items: center;
}

.lane > * {
  grid-row: 1;
}

.here {
  align-self: stretch;
  background: var(--paper-2);
}

.mark {
  z-index: 2;
  padding: 0;
  justify-self: center;
  width: 11px;
  height: 11px;
  background: var(--accent);
  border: 1.5px solid var(--accent);
  border-radius: 50%;
  cursor: grab;
  touch-action: none;
}

.mark.fixed {
  cursor: default;
}

.mark.counter {
  background: var(--paper);
}

.mark.moved {
  border-color: var(--ink);
  box-shadow: 0 0 0 1.5px var(--paper) inset;
}

.mark.open {
  background: var(--ink);
  border-color: var(--ink);
  border-radius: 0;
  cursor: pointer;
}

.mark:focus-visible {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}

.spread {
  height: 2px;
  background: var(--accent);
  opacity: 0.45;
}

.target {
  align-self: stretch;
  background: var(--paper-2);
  border: 1px dashed var(--accent);
}

.target.over {
  background: var(--accent);
  opacity: 0.4;
}

.move {
  position: absolute;
  z-index: 6;
  top: 24px;
  left: 0;
  display: grid;
  gap: 4px;
  width: 190px;
  padding: 8px 10px;
  background: var(--paper);
  border: 1.5px solid var(--ink);
}

.move.left {
  right: 0;
  left: auto;
}

.move p {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 2px 0;
}
</style>
