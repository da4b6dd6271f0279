<script setup lang="ts">
import { lanes as lanesAsked, meterAlarms } from './queries/meters'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, toRef } from 'vue'
import { useRouter } from 'vue-router'
import type { components } from '../generated/api'
import { type Ladder } from '../common/api'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import type { View } from '../common/chart/geometry'
import { type Axis, LANE, alarmBars, failureMarks, workBars, wouldBeBars, wouldBeWork } from './lanes'

const props = defineProps<{
  meter: string
  view: View
  /** Of the trend above; the lanes share its time axis. */
  width: number
  left: number
  right: number
  /** What the edited ladder would have done, in a lane of its own. */
  replay?: components['schemas']['ReplayView']
  ladder: Ladder
}>()

const { to } = useAddress()
const router = useRouter()
const asked = refDebounced(
  toRef(() => props.view),
  120,
)
const query = computed(() => ({
  from: new Date(asked.value.from).toISOString(),
  to: new Date(asked.value.to).toISOString(),
}))
const alarms = useQuery(() => ({
  ...meterAlarms(props.meter, query.value),
  placeholderData: keepPreviousData,
}))
const lanes = useQuery(() => ({ ...lanesAsked(props.meter, query.value), placeholderData: keepPreviousData }))

const again = () => Promise.all([alarms.refetch(), lanes.refetch()])
const axis = computed<Axis>(() => ({
  view: props.view,
  width: props.width,
  left: props.left,
  now: now.value,
}))
const bars = computed(() => [
  ...alarmBars(alarms.data.value ?? [], axis.value),
  ...wouldBeBars(props.replay?.alarms ?? [], props.ladder, axis.value),
])
const orders = computed(() => workBars(lanes.data.value?.work ?? [], axis.value))
const imagined = computed(() => wouldBeWork(props.replay?.work ?? [], axis.value))
const failures = computed(() =>
  failureMarks(lanes.data.value?.work ?? [], props.replay?.failures ?? [], axis.value),
)
const names = computed(() => ['Alarms', 'Work', 'Failed', ...(props.replay ? ['Replay'] : [])])
const open = (number: number) => router.push(to(`/work/${number}`))
</script>

<template>
  <ProblemNote :error="alarms.error.value ?? lanes.error.value" :again="again" />
  <svg
    v-if="width"
    :viewBox="`0 0 ${width} ${names.length * LANE}`"
    :width="width"
    :height="names.length * LANE"
    aria-label="Alarms, work, failures and what the edited limits would have done"
  >
    <g v-for="(name, index) in names" :key="name">
      <path class="rule" :d="`M0 ${index * LANE + 0.5}H${width}`" />
      <text :x="0" :y="index * LANE + 16">{{ name }}</text>
    </g>
    <rect
      v-for="bar in bars"
      :key="bar.key"
      class="alarm"
      :data-severity="bar.severity"
      :data-test="bar.test"
      :x="bar.x"
      :y="bar.y"
      :width="bar.width"
      height="3.6"
    >
      <title>{{ bar.title }}</title>
    </rect>
    <path
      v-for="mark in imagined"
      :key="`work ${mark.x}`"
      class="raised"
      :d="`M${mark.x} ${3 * LANE + 2}v20`"
    >
      <title>{{ mark.title }}</title>
    </path>
    <rect
      v-for="bar in orders"
      :key="bar.key"
      class="work"
      :class="{ own: bar.own }"
      :x="bar.x"
      :y="bar.y"
      :width="bar.width"
      height="6"
      tabindex="0"
      role="link"
      :aria-label="bar.title"
      @click="open(bar.key)"
      @keydown.enter="open(bar.key)"
    >
      <title>{{ bar.title }}</title>
    </rect>
    <g
      v-for="mark in failures"
      :key="mark.key"
      class="failed"
      :class="{ caught: mark.caught }"
      :data-test="mark.caught ? 'failure-caught' : 'failure'"
      tabindex="0"
      role="link"
      :aria-label="mark.title"
      @click="open(mark.key)"
      @keydown.enter="open(mark.key)"
    >
      <title>{{ mark.title }}</title>
      <!-- A cross; with a ring around it where the edited limits would have caught it. -->
      <path :d="`M${mark.x - 4} ${2 * LANE + 7}l8 9m0 -9l-8 9`" />
      <circle v-if="mark.caught" :cx="mark.x" :cy="2 * LANE + 11.5" r="9" />
      <text
        v-if="mark.side"
        :x="mark.side === 'left' ? mark.x - 13 : mark.x + 13"
        :y="2 * LANE + 16"
        :text-anchor="mark.side === 'left' ? 'end' : 'start'"
      >
        {{ mark.label }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
}

text {
  font-size: 12.5px;
  fill: var(--ink-2);
}

.rule {
  stroke: var(--rule);
}

.alarm {
  fill: currentColor;
}

.work {
  fill: var(--rule-2);
  cursor: pointer;
}

.work.own {
  fill: var(--accent);
}

.raised {
  stroke: var(--accent);
  stroke-width: 2;
}

.failed {
  cursor: pointer;
}

.failed path {
  stroke: var(--danger);
  stroke-width: 2.2;
  stroke-linecap: round;
}

.failed circle {
  fill: none;
  stroke: var(--better);
  stroke-width: 2.2;
}

.failed text {
  fill: var(--ink);
}
</style>
