<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, nextTick, ref } from 'vue'
import { useChange } from '../common/change/useChange'
import { ago, date, dateTime, duration, hours, kindWords, stateWords } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { usePeople } from '../common/usePeople'
import AttachmentSection from './AttachmentSection.vue'
import { changeTime } from './changes'
import CheckSection from './CheckSection.vue'
import CommentSection from './CommentSection.vue'
import DecisionSection from './DecisionSection.vue'
import DowntimeSection from './DowntimeSection.vue'
import EntrySection from './EntrySection.vue'
import FailureSection from './FailureSection.vue'
import JobSection from './JobSection.vue'
import LinkedSection from './LinkedSection.vue'
import MeterSection from './MeterSection.vue'
import MissingList from './MissingList.vue'
import PartsSection from './PartsSection.vue'
import { workOrder } from './queries/orders'
import RoundSection from './RoundSection.vue'
import StateMoves from './StateMoves.vue'
import ThumbBar from './ThumbBar.vue'
import TickLines from './TickLines.vue'
import TimeSection from './TimeSection.vue'
import WaitingList from './WaitingList.vue'
import WorkWhySection from './WorkWhySection.vue'

/** One job for whoever does it: from top to bottom in the order in which it is done, by one thumb. */
const props = defineProps<{ number: string }>()
const { to } = useAddress()
const RaiseForm = defineAsyncComponent(() => import('./RaiseForm.vue'))
const isRaising = ref(false)
const { data: work, error } = useQuery(() => workOrder(Number(props.number)))
const { acting } = usePeople()

/** One's own time on it. */
const own = computed(() => work.value?.running.find(({ person }) => person === acting.value))
const ran = computed(() => (own.value ? Math.max(now.value - Date.parse(own.value.since), 0) : 0))
const time = useChange(changeTime)
const turn = (running: boolean) => time.mutate({ number: Number(props.number), body: { running } })
/** It can be begun, or is under way. */
const mayRun = computed(
  () =>
    !!work.value?.may_tick &&
    (work.value.state === 'under_way' ||
      work.value.moves.some((move) => move.to === 'under_way' && move.ahead)),
)
const isLate = computed(() => !!work.value?.past_window)
const finish = ref<HTMLElement>()
const moves = ref<InstanceType<typeof StateMoves>>()
const done = computed(() => work.value?.moves.find((move) => move.to === 'done'))
async function complete() {
  if (!done.value) return
  moves.value?.press(done.value)
  await nextTick()
  finish.value?.scrollIntoView({ block: 'start' })
}
</script>

<template>
  <article class="job">
    <ProblemNote :error="work ? undefined : error" />
    <template v-if="work">
      <p class="crumb small">
        <RouterLink :to="to('/shift')" class="to-shift">Shift</RouterLink><span class="to-shift"> · </span>
        <template v-for="asset in work.above" :key="asset.code">{{ asset.name }} › </template>
        <strong class="where">{{ work.asset.name }}</strong>
      </p>
      <h1>{{ work.title }}</h1>
      <p class="state">
        <strong data-test="state">{{ stateWords[work.state] }}</strong>
        <span v-if="work.waiting_for">for {{ work.waiting_for }}</span>
        <span>rank {{ work.risk_rank }}</span>
        <span :class="{ late: isLate }">due {{ ago(work.window_end, now) }}</span>
        <span v-if="work.estimated_hours != null">{{ hours(work.estimated_hours) }} h</span>
        <SeverityStrokes v-if="work.source_severity" :severity="work.source_severity" word />
      </p>
      <WaitingList :number="work.number" />
      <DecisionSection v-if="work.decisions.length" :work="work" />
      <WorkWhySection v-if="work.why" :why="work.why" :number="work.number" />
      <section>
        <h2>What to do</h2>
        <p class="text">{{ work.text || 'Nothing more is said than the title.' }}</p>
        <p class="small quiet">
          {{ kindWords[work.kind] }}, number {{ work.number }}, raised by {{ work.raised_by }},
          {{ date(work.raised_at) }};
          {{ work.scheduled_start ? `scheduled ${dateTime(work.scheduled_start)}` : 'no day yet'
          }}<template v-if="work.assignee">; {{ work.assignee }}</template>
        </p>
      </section>
      <section v-if="work.permits.length" data-test="permits">
        <h2>Before it begins</h2>
        <TickLines :work="work" :lines="work.permits" of="asset_permit" />
      </section>
      <RoundSection v-if="work.job?.round" :key="work.number" :work="work" :job="work.job" />
      <JobSection v-else-if="work.job" :work="work" :job="work.job" />
      <MeterSection :key="work.number" :work="work" />
      <CheckSection :key="work.number" :work="work" />
      <PartsSection :key="work.number" :work="work" />
      <TimeSection :key="work.number" :work="work" />
      <DowntimeSection :work="work" />
      <FailureSection
        v-if="work.failures.length || work.asks_for_failure || work.kind.startsWith('corrective') || work.why"
        :key="work.failures.map((one) => one.recorded_at).join()"
        :work="work"
      />
      <AttachmentSection :key="work.number" :work="work" />
      <CommentSection :key="work.number" :work="work" />
      <EntrySection :work="work" />
      <LinkedSection :work="work" />
      <p v-if="work.may_raise">
        <button class="act" data-test="follow-on" @click="isRaising = true">Raise follow-on work</button>
      </p>
      <RaiseForm v-if="isRaising" :from="{ follow: work.number }" stays @close="isRaising = false" />
      <section ref="finish" data-test="move-on">
        <h2>Move it on</h2>
        <MissingList :work="work" />
        <StateMoves ref="moves" :work="work" />
        <p class="small">
          <RouterLink :to="to(`/work/${work.number}`)">All of it, with its history</RouterLink>
        </p>
      </section>
      <ThumbBar v-if="mayRun || own || done">
        <template #standing>
          <strong v-if="own" data-test="own-time">{{ duration(ran) }}</strong>
          <span class="small quiet">{{ own ? 'your time runs' : 'your time does not run' }}</span>
        </template>
        <ElButton v-if="own" :loading="time.isPending.value" data-test="stop-own" @click="turn(false)"
          >Stop</ElButton
        >
        <ElButton
          v-else-if="mayRun"
          :type="work.state === 'under_way' ? undefined : 'primary'"
          :loading="time.isPending.value"
          data-test="start-own"
          @click="turn(true)"
          >Start</ElButton
        >
        <ElButton v-if="done" type="primary" data-test="complete" @click="complete">Done…</ElButton>
      </ThumbBar>
      <ProblemNote :error="time.error.value" class="wrong" />
    </template>
  </article>
</template>

<style scoped>
.job {
  max-width: 720px;
  margin: 0 auto;
  padding-bottom: 96px;
}

.crumb {
  margin: 0 0 4px;
}

.where {
  display: block;
  font-size: 15px;
}

.state {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  margin: 6px 0 0;
}

.state strong {
  font-family: var(--serif);
  font-size: 17px;
}

.late {
  color: var(--worse);
  font-weight: 600;
}

.text {
  max-width: 70ch;
  margin: 6px 0;
  white-space: pre-line;
}

.job :deep(section) {
  margin-top: 22px;
  scroll-margin-top: 12px;
}

.job :deep(h2) {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding-bottom: 4px;
  border-bottom: 1.5px solid var(--ink);
}

.job :deep(h2 .small) {
  font-family: var(--sans);
  font-weight: 400;
}

.job :deep(h2 .act) {
  margin: -12px 0 -12px auto;
}

.wrong {
  position: fixed;
  inset: auto 16px 84px 16px;
  z-index: 6;
}

/* One thumb: nothing to press is smaller than that. */
@media (max-width: 760px) {
  /* The bar above says it. */
  .job .crumb .to-shift {
    display: none;
  }
}

/* Fingers, on a tablet too. */
@media (max-width: 760px), (pointer: coarse) {
  .job :deep(:is(button, select, input:not([type='checkbox'], [type='file']), summary, li > a, .what > a)) {
    min-height: 44px;
  }

  .job :deep(:is(li > a, .what > a, .crumb > a)) {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
  }

  .job :deep(label:has(input[type='checkbox'])) {
    align-items: center;
    min-height: 44px;
  }

  .job :deep(input[type='checkbox']) {
    flex: none;
    width: 24px;
    height: 24px;
    transform: none;
  }
}
</style>
