<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, toRef } from 'vue'
import { useRouter } from 'vue-router'
import type { components } from '../generated/api'
import { answer, api, type Ladder } from '../common/api'
import { dateTime, severities } from '../common/format'
import { now } from '../common/installation'
import { useAddress } from '../common/useAddress'
import { type View, xOf } from './geometry'

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

const LANE = 24
const { to } = useAddress()
const router = useRouter()
const asked = refDebounced(
  toRef(() => props.view),
  120,
)
const query = computed(() => ({
  path: { code: props.meter },
  query: { from: new Date(asked.value.from).toISOString(), to: new Date(asked.value.to).toISOString() },
}))
const alarms = useQuery({
  queryKey: ['meter-alarms', query],
  queryFn: () => answer(api.GET('/api/v1/meters/{code}/alarms', { params: query.value })),
  placeholderData: (before) => before,
})
const lanes = useQuery({
  queryKey: ['lanes', query],
  queryFn: () => answer(api.GET('/api/v1/meters/{code}/lanes', { params: query.value })),
  placeholderData: (before) => before,
})

const x = (at: string | number | null | undefined) =>
  xOf(typeof at === 'string' ? Date.parse(at) : (at ?? now.value), props.view, props.width)
const inView = (from: string, to: string | null | undefined) =>
  Date.parse(from) < props.view.to && (to ? Date.parse(to) : now.value) >= props.view.from

const alarmBars = computed(() =>
  (alarms.data.value ?? [])
    .filter((alarm) => inView(alarm.entered_at, alarm.left_at))
    .map((alarm) => ({
      key: alarm.id,
      severity: alarm.severity,
      x: x(alarm.entered_at),
      width: Math.max(3, x(alarm.left_at) - x(alarm.entered_at)),
      // The worse, the higher: one bar of strokes above another.
      y: 3 + (3 - severities.indexOf(alarm.severity)) * 4.5,
      title: `${alarm.rung ?? 'silent'}, ${alarm.shown}, ${dateTime(alarm.entered_at)}`,
      test: 'alarm-bar',
    })),
)
const workBars = computed(() =>
  (lanes.data.value?.work ?? [])
    .filter((work) => inView(work.raised_at, work.done_at))
    .map((work, index) => ({
      key: work.number,
      own: work.from_this_meter,
      x: x(work.raised_at),
      width: Math.max(3, x(work.done_at) - x(work.raised_at)),
      y: LANE + 4 + (index % 2) * 8,
      title: `${work.number} ${work.title}, raised ${dateTime(work.raised_at)}`,
    })),
)
const wouldBe = computed(() =>
  (props.replay?.alarms ?? [])
    .filter((alarm) => inView(alarm.entered_at, alarm.left_at) && props.ladder.rungs[alarm.rung])
    .map((alarm) => {
      const severity = props.ladder.rungs[alarm.rung]!.severity
      return {
        key: `${alarm.rung} ${alarm.entered_at}`,
        severity,
        x: x(alarm.entered_at),
        width: Math.max(3, x(alarm.left_at) - x(alarm.entered_at)),
        y: 3 * LANE + 3 + (3 - severities.indexOf(severity)) * 4.5,
        title:
          alarm.alarms > 1
            ? `${severity} would have been entered ${alarm.alarms} times, from ${dateTime(alarm.entered_at)}`
            : `${severity} would have been entered, ${dateTime(alarm.entered_at)}`,
        test: 'would-be-alarm',
      }
    }),
)
const wouldBeWork = computed(() =>
  (props.replay?.work ?? [])
    .filter((work) => inView(work.raised_at, work.raised_at))
    .map((work) => ({
      x: x(work.raised_at),
      title: `work would have been raised, ${dateTime(work.raised_at)}`,
    })),
)
const names = computed(() => ['Alarms', 'Work', 'Failed', ...(props.replay ? ['Replay'] : [])])
/** Warning times by work order, of the failures that the edited ladder is judged by; none where one was missed. */
const warnings = computed(
  () => new Map((props.replay?.failures ?? []).map((one) => [one.work_order, one.warning_ms])),
)
function fate(work: number): string {
  if (!warnings.value.has(work)) return ''
  const warning = warnings.value.get(work)
  return warning == null ? ': missed' : `: caught ${Math.floor(warning / 86_400_000)} days before`
}
/** Room a mark's words need, in pixels. */
const WORDS = 118
const failures = computed(() => {
  const marks = (lanes.data.value?.work ?? [])
    .filter((work) => work.failed_at && inView(work.failed_at, work.failed_at))
    .map((work) => ({
      key: work.number,
      x: x(work.failed_at),
      title: `${work.problem ?? 'not coded'}, ${dateTime(work.failed_at!)}${fate(work.number)}`,
      label: work.problem ?? 'not coded',
      caught: warnings.value.get(work.number) != null,
    }))
    .sort((a, b) => a.x - b.x)
  return marks.map((mark, index) => {
    // Words stand on the side that has room, or not at all: the mark says them when it is pointed at.
    const right = (marks[index + 1]?.x ?? props.width) - mark.x > WORDS
    const left = mark.x - (marks[index - 1]?.x ?? props.left) > 2 * WORDS
    return { ...mark, side: right ? 'right' : left ? 'left' : '' }
  })
})
const open = (number: number) => router.push(to(`/work/${number}`))
</script>

<template>
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
      v-for="bar in [...alarmBars, ...wouldBe]"
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
      v-for="mark in wouldBeWork"
      :key="`work ${mark.x}`"
      class="raised"
      :d="`M${mark.x} ${3 * LANE + 2}v20`"
    >
      <title>{{ mark.title }}</title>
    </path>
    <rect
      v-for="bar in workBars"
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
