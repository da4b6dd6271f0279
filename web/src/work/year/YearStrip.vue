<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../common/api'
import { localDate, tenth } from '../../common/format'

/** A crew's load by week against what it can do. What goes beyond it stands out; an outline says what levelling would make of it. */
const props = defineProps<{
  crew: Schemas['YearCrew']
  weeks: string[]
  /** How many times what it can do fills the whole height: the same for all crews. */
  top: number
  levelled?: number[]
  /** The week that is looked at. */
  week?: number
  chosen: boolean
}>()
const emit = defineEmits<{ pick: [week: number] }>()

/** A crew of no hours is drawn as one of a single person's week. */
const full = computed(() => props.top * (props.crew.capacity_hours || 40))
const height = (hours: number) => Math.min(100, (100 * hours) / full.value)
/** Levelling makes something else of that week. */
const changes = (week: number, load: number) =>
  props.levelled !== undefined && Math.abs((props.levelled[week] ?? 0) - load) > 0.05
const bars = computed(() =>
  props.crew.load_hours.map((load, week) => ({
    week,
    load,
    within: height(Math.min(load, props.crew.capacity_hours || load)),
    beyond: props.crew.is_over[week] ? height(load - props.crew.capacity_hours) : 0,
    after: changes(week, load) ? height(props.levelled?.[week] ?? 0) : undefined,
    says: `Week of ${localDate(props.weeks[week] ?? '')}: ${tenth(load)} of ${tenth(props.crew.capacity_hours)} h`,
  })),
)
</script>

<template>
  <div class="strip" :class="{ chosen }">
    <i class="line" :style="{ bottom: `${height(crew.capacity_hours)}%` }" />
    <button
      v-for="bar in bars"
      :key="bar.week"
      type="button"
      tabindex="-1"
      class="week"
      :class="{ here: bar.week === week }"
      :title="bar.says"
      :aria-label="bar.says"
      :data-test="`week-${crew.code ?? 'none'}-${bar.week}`"
      @click="emit('pick', bar.week)"
    >
      <i v-if="bar.beyond" class="beyond" :style="{ height: `${bar.beyond}%` }" />
      <i class="within" :style="{ height: `${bar.within}%` }" />
      <i v-if="bar.after !== undefined" class="after" :style="{ height: `${bar.after}%` }" />
    </button>
  </div>
</template>

<style scoped>
.strip {
  position: relative;
  display: grid;
  grid-template-columns: repeat(52, minmax(0, 1fr));
  height: 46px;
}

.line {
  position: absolute;
  right: 0;
  left: 0;
  z-index: 1;
  border-top: 1px solid var(--ink);
  pointer-events: none;
}

.week {
  position: relative;
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  height: 100%;
  min-width: 0;
  padding: 0 1px;
  background: none;
  border: 0;
  cursor: pointer;
}

.week:hover,
.here {
  background: var(--paper-2);
}

.here {
  box-shadow: inset 0 -2px var(--ink);
}

.within {
  background: var(--ink-3);
}

.chosen .within {
  background: var(--accent);
}

.beyond {
  background: var(--worse);
}

.after {
  position: absolute;
  right: 1px;
  bottom: 0;
  left: 1px;
  border: 1.5px solid var(--ink);
  border-bottom: 0;
  pointer-events: none;
}
</style>
