<script setup lang="ts">
import { computed } from 'vue'
import type { Ladder } from '../common/api'
import { plain } from '../common/format'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { LEFT, RIGHT, type Range, valueAt, yOf } from '../common/chart/geometry'
import { moveRung, onValue, tidy } from './ladder'

const props = defineProps<{
  range: Range
  height: number
  unit: string
}>()
const draft = defineModel<Ladder>({ required: true })

const lines = computed(() =>
  draft.value.rungs.flatMap((rung, place) =>
    rung.setpoint == null || !onValue(rung)
      ? []
      : [{ place, rung, setpoint: rung.setpoint, y: yOf(rung.setpoint, props.range, props.height) }],
  ),
)

function set(place: number, setpoint: number) {
  const rung = draft.value.rungs[place]
  if (rung) moveRung(rung, tidy(setpoint))
}

function drag(event: PointerEvent, place: number) {
  const handle = event.currentTarget as HTMLElement
  const top = handle.parentElement!.getBoundingClientRect().top
  // The scale of the moment it was taken, so that the line follows the hand while the axis grows.
  const range = { ...props.range }
  handle.setPointerCapture(event.pointerId)
  const move = (moved: PointerEvent) => set(place, valueAt(moved.clientY - top, range, props.height))
  handle.addEventListener('pointermove', move)
  handle.addEventListener('pointerup', () => handle.removeEventListener('pointermove', move), { once: true })
}

function nudge(place: number, steps: number) {
  const setpoint = draft.value.rungs[place]?.setpoint ?? 0
  set(place, setpoint + (steps * (props.range.high - props.range.low)) / 100)
}
</script>

<template>
  <div class="rungs" :style="{ left: `${LEFT}px`, right: `${RIGHT}px` }">
    <div
      v-for="line in lines"
      :key="line.place"
      class="rung"
      :data-severity="line.rung.severity"
      :style="{ top: `${line.y}px` }"
      role="slider"
      tabindex="0"
      aria-orientation="vertical"
      :aria-label="`${line.rung.severity} ${line.rung.side}`"
      :aria-valuenow="line.setpoint"
      :aria-valuemin="range.low"
      :aria-valuemax="range.high"
      :data-test="`line-${line.rung.side}-${line.rung.severity}`"
      @pointerdown.prevent="drag($event, line.place)"
      @keydown.up.prevent="nudge(line.place, 1)"
      @keydown.down.prevent="nudge(line.place, -1)"
    >
      <span class="tag"
        ><SeverityStrokes :severity="line.rung.severity" /> {{ plain(line.setpoint) }} {{ unit }}</span
      >
    </div>
  </div>
</template>

<style scoped>
.rungs {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}

.rung {
  position: absolute;
  left: 0;
  right: 0;
  height: 13px;
  margin-top: -6.5px;
  cursor: ns-resize;
  pointer-events: auto;
  touch-action: none;
}

.rung::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 6px;
  border-top: 2px solid currentColor;
}

.rung:hover::before,
.rung:focus-visible::before {
  border-top-width: 3px;
  top: 5px;
}

.tag {
  position: absolute;
  left: 6px;
  top: -13px;
  font-size: 12.5px;
  font-weight: 600;
  white-space: nowrap;
  background: color-mix(in srgb, var(--paper) 82%, transparent);
  padding-right: 4px;
}
</style>
