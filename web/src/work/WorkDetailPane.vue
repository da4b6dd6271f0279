<script setup lang="ts">
import { workOrder } from './queries/orders'
import { X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { ago, date, dateTime, hours, kindWords, stateWords } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import AttachmentSection from './AttachmentSection.vue'
import CheckSection from './CheckSection.vue'
import CommentSection from './CommentSection.vue'
import DecisionSection from './DecisionSection.vue'
import DowntimeSection from './DowntimeSection.vue'
import EntrySection from './EntrySection.vue'
import FailureSection from './FailureSection.vue'
import HistorySection from './HistorySection.vue'
import JobSection from './JobSection.vue'
import LinkedSection from './LinkedSection.vue'
import MissingList from './MissingList.vue'
import OutsideNumber from './OutsideNumber.vue'
import PartsSection from './PartsSection.vue'
import PlanForm from './PlanForm.vue'
import RoundSection from './RoundSection.vue'
import SparePartSection from './SparePartSection.vue'
import StateMoves from './StateMoves.vue'
import TickLines from './TickLines.vue'
import StatesBar from './StatesBar.vue'
import TimeSection from './TimeSection.vue'
import WorkCycleSection from './WorkCycleSection.vue'
import WorkWhySection from './WorkWhySection.vue'

const props = defineProps<{ number: number }>()
/** What it says and plans is being changed. */
const planning = ref(false)
const print = () => window.print()
const { change, stay, to } = useAddress()

const { data: work, error } = useQuery(() => workOrder(props.number))
</script>

<template>
  <article>
    <ProblemNote :error="error" />
    <template v-if="work">
      <p class="crumb small">
        <template v-for="asset in work.above" :key="asset.code">
          <RouterLink :to="to('/work', { scope: asset.code })">{{ asset.name }}</RouterLink> ›
        </template>
        <RouterLink :to="to('/work', { scope: work.asset.code })">{{ work.asset.name }}</RouterLink>
        <span class="tools no-print">
          <template v-if="work.may_raise">
            <button class="act" data-test="follow-on" @click="change({ raise: `follow-${work.number}` })">
              Follow on
            </button>
            <button class="act" data-test="copy" @click="change({ raise: `copy-${work.number}` })">
              Copy
            </button>
          </template>
          <button class="act" @click="print()">Print</button>
        </span>
        <RouterLink
          :to="stay('/work')"
          class="close no-print"
          aria-label="Close"
          title="Close ( Esc )"
          data-close
          ><X :size="18"
        /></RouterLink>
      </p>
      <h1>{{ work.title }}</h1>
      <p class="state">
        <strong data-test="state">{{ stateWords[work.state] }}</strong>
        <span v-if="work.waiting_for">for {{ work.waiting_for }}</span>
        <span v-if="work.expected_until" :class="work.late_waiting ? 'late' : 'quiet'">
          expected {{ date(work.expected_until) }}
        </span>
        <span class="quiet">{{ ago(work.state_since, now) }}</span>
        <span class="quiet">number {{ work.number }}</span>
        <SeverityStrokes v-if="work.source_severity" :severity="work.source_severity" word />
      </p>
      <DecisionSection v-if="work.decisions.length" :work="work" />
      <StateMoves :work="work" class="no-print" />
      <MissingList v-if="work.state === 'under_way' || work.state === 'done'" :work="work" />
      <StatesBar :work="work" />
      <WorkWhySection v-if="work.why" :why="work.why" :number="work.number" />
      <WorkCycleSection v-if="work.cycle" :cycle="work.cycle" :may-plan="work.may_plan" />
      <section>
        <h2>
          What to do
          <button
            v-if="work.may_plan && !planning"
            class="act no-print"
            data-test="plan"
            @click="planning = true"
          >
            Change
          </button>
        </h2>
        <PlanForm v-if="planning" :key="work.number" :work="work" @close="planning = false" />
        <p class="text">{{ work.text || 'Nothing more is said than the title.' }}</p>
        <dl>
          <div>
            <dt>Kind</dt>
            <dd>{{ kindWords[work.kind] }}</dd>
          </div>
          <div>
            <dt>Risk rank</dt>
            <dd>{{ work.risk_rank }}</dd>
          </div>
          <div>
            <dt>Window ends</dt>
            <dd :class="{ late: work.past_window }">{{ date(work.window_end) }}</dd>
          </div>
          <div>
            <dt>Start by</dt>
            <dd>{{ work.target_start ? date(work.target_start) : 'not asked for' }}</dd>
          </div>
          <div>
            <dt>Crew</dt>
            <dd>
              {{ work.crew ?? 'none' }}<template v-if="work.assignee">, {{ work.assignee }}</template>
            </dd>
          </div>
          <div>
            <dt>Hours</dt>
            <dd>
              {{ hours(work.spent_hours) }} of
              {{ work.estimated_hours == null ? 'no estimate' : hours(work.estimated_hours) }}
            </dd>
          </div>
          <div>
            <dt>Scheduled</dt>
            <dd>
              {{ work.scheduled_start ? dateTime(work.scheduled_start) : 'no day yet'
              }}<template v-if="work.scheduled_end"> – {{ dateTime(work.scheduled_end) }}</template>
            </dd>
          </div>
          <OutsideNumber :key="work.number" :work="work" />
        </dl>
      </section>
      <AttachmentSection :key="work.number" :work="work" />
      <section v-if="work.permits.length" :class="{ 'no-print': work.is_over }" data-test="permits">
        <h2>
          Before it begins <span class="quiet small">permits and isolations that the asset asks for</span>
        </h2>
        <TickLines :work="work" :lines="work.permits" of="asset_permit" />
      </section>
      <RoundSection v-if="work.job?.round" :key="work.number" :work="work" :job="work.job" />
      <JobSection v-else-if="work.job" :work="work" :job="work.job" />
      <CheckSection :key="work.number" :work="work" />
      <PartsSection :key="work.number" :work="work" />
      <SparePartSection :work="work" />
      <LinkedSection :work="work" />
      <TimeSection :key="work.number" :work="work" />
      <EntrySection :work="work" />
      <DowntimeSection :work="work" />
      <FailureSection :key="work.failures.map((one) => one.recorded_at).join()" :work="work" />
      <CommentSection :key="work.number" :work="work" />
      <HistorySection :work="work" />
    </template>
  </article>
</template>

<style scoped>
article {
  min-width: 0;
}

.crumb {
  position: relative;
  margin: 0 0 4px;
  padding-right: 210px;
}

.close {
  position: absolute;
  right: 0;
  top: 0;
  color: var(--ink);
}

.tools {
  position: absolute;
  right: 34px;
  top: -4px;
  display: flex;
  gap: 14px;
}

.tools .act {
  padding-inline: 0;
}

article :deep(h2 .small) {
  font-family: var(--sans);
  font-weight: 400;
}

.state {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 6px 0 10px;
}

.state strong {
  font-family: var(--serif);
  font-size: 17px;
}

.text {
  white-space: pre-line;
  max-width: 70ch;
  margin: 6px 0 10px;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 30px;
  margin: 0;
}

dt {
  font-size: 13px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

.late {
  color: var(--worse);
  font-weight: 600;
}

article :deep(section) {
  margin-top: 22px;
}

article :deep(h2) {
  border-bottom: 1.5px solid var(--ink);
  padding-bottom: 4px;
  display: flex;
  align-items: baseline;
  gap: 12px;
}

article :deep(h2 .act) {
  margin-left: auto;
  padding: 0;
}

@media print {
  article :deep(section) {
    margin-top: 11px;
    break-inside: avoid;
  }
}
</style>
