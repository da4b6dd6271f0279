<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import TextField from '../common/fields/TextField.vue'
import { count, dateTime, hours } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import RoundMap from '../common/RoundMap.vue'
import { useAddress } from '../common/useAddress'
import { tickJob } from './changes'

/** The visits of the round that an order follows: walked one by one, done or skipped with a reason. */
const props = defineProps<{ work: WorkDetail; job: NonNullable<WorkDetail['job']> }>()
const { to } = useAddress()
const tick = useChange(tickJob, () => (skipping.value = undefined))
const mayTick = computed(() => props.work.may_tick && !props.work.is_over)

const outcomeOf = (visit: Schemas['JobLine']) =>
  visit.skipped != null ? 'skipped' : visit.ticked_at ? 'done' : 'open'
const outcomes = computed(() => props.job.steps.map(outcomeOf))
const checksAt = (place: number) => props.work.checks.filter((check) => check.step === place)
/** It can be visited now. */
const isNext = (place: number) => outcomes.value[place] === 'open' && !!props.job.steps[place]?.is_turn
/** The place of the visit that is about to be skipped, and why. */
const skipping = ref<number>()
const reason = ref('')
function ask(place: number) {
  tick.reset()
  reason.value = ''
  skipping.value = place
}
const send = (step: number, body: { done: boolean; skip?: string }) =>
  tick.mutate({ number: props.work.number, body: { step, ...body } })
</script>

<template>
  <section data-test="round">
    <h2>
      Round
      <span class="quiet small">
        <RouterLink v-if="work.may_plan" :to="to(`/setup/rounds/${job.code}`)">{{ job.title }}</RouterLink>
        <template v-else>{{ job.title }}</template>, version {{ job.version
        }}<template v-if="job.is_newer">; there is a newer one</template>
      </span>
    </h2>
    <p class="stand" data-test="round-stand">
      <strong v-if="job.open_steps"
        >{{ count(job.open_steps, 'visit', 'visits') }} of {{ job.steps.length }} to go</strong
      >
      <strong v-else>All {{ job.steps.length }} visits are done or skipped</strong>
      <span class="quiet">
        {{ job.round === 'in_order' ? 'walked in the order listed' : 'walked as it suits' }}
      </span>
    </p>
    <p v-if="job.text" class="text">{{ job.text }}</p>
    <div class="both">
      <ol class="visits">
        <li
          v-for="(visit, place) in job.steps"
          :key="place"
          :class="{ later: outcomes[place] === 'open' && !visit.is_turn }"
          :data-test="`visit-${place}`"
        >
          <span class="number" :class="outcomes[place]">{{ place + 1 }}</span>
          <div class="what">
            <strong>{{ visit.asset_name ?? visit.asset }}</strong>
            <span v-if="visit.hours" class="quiet small">{{ hours(visit.hours) }} h</span>
            <p v-if="visit.text">{{ visit.text }}</p>
            <template v-if="visit.job">
              <p class="small">{{ visit.job.title }}</p>
              <ol class="small steps">
                <li v-for="(step, nth) in visit.job.steps" :key="nth">{{ step }}</li>
              </ol>
            </template>
            <p v-for="check in checksAt(place)" :key="check.id" class="check">
              <RouterLink
                :to="to(`/work/${work.number}/checks/${check.id}`)"
                :class="{ press: isNext(place), primary: isNext(place) && !check.finished_at }"
                :data-test="`visit-check-${place}`"
                >{{ check.title }}</RouterLink
              >
              <span v-if="check.finished_at || check.begun_at" class="quiet small">{{
                check.finished_at ? 'finished' : 'begun'
              }}</span>
            </p>
            <p v-if="visit.skipped != null" class="small" data-test="skipped">
              Skipped by {{ visit.ticked_by }}: {{ visit.skipped }}
            </p>
            <p v-else-if="visit.ticked_at" class="quiet small">
              {{ visit.ticked_by }}, {{ dateTime(visit.ticked_at) }}
            </p>
            <form
              v-if="skipping === place"
              class="skip"
              @submit.prevent="send(place, { done: false, skip: reason })"
            >
              <TextField
                v-model="reason"
                label="Why is it left out?"
                name="skip-reason"
                :wrong="tick.problem.value?.of('skip')"
              />
              <ElButton type="primary" native-type="submit" data-test="skip-send">Skip it</ElButton>
              <button type="button" class="act" @click="skipping = undefined">Not now</button>
            </form>
          </div>
          <span v-if="mayTick && skipping !== place" class="acts no-print">
            <template v-if="isNext(place)">
              <ElButton
                v-if="checksAt(place).every((check) => check.finished_at)"
                type="primary"
                :loading="tick.isPending.value"
                :data-test="`visit-done-${place}`"
                @click="send(place, { done: true })"
                >Done</ElButton
              >
              <ElButton :data-test="`visit-skip-${place}`" @click="ask(place)">Skip</ElButton>
            </template>
            <button
              v-else-if="outcomes[place] !== 'open'"
              class="act"
              :data-test="`visit-open-${place}`"
              @click="send(place, { done: false })"
            >
              Open again
            </button>
          </span>
        </li>
      </ol>
      <RoundMap :lines="job.map" :outcomes="outcomes" />
    </div>
    <ProblemNote :error="tick.error.value" />
  </section>
</template>

<style scoped>
.stand {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 6px 0 10px;
}

.text {
  margin: 6px 0;
  white-space: pre-line;
}

.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(180px, 260px);
  gap: 24px;
  align-items: start;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

.visits > li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  padding: 10px 0;
  border-bottom: 1px solid var(--rule);
}

.number {
  display: grid;
  flex: none;
  place-items: center;
  width: 26px;
  height: 26px;
  font-size: 14px;
  font-weight: 600;
  border: 1.5px solid var(--ink);
  border-radius: 13px;
}

.number.done {
  color: var(--paper);
  background: var(--ink);
}

.number.skipped {
  color: var(--ink-2);
  text-decoration: line-through;
  border-color: var(--ink-3);
  border-style: dashed;
}

.later strong {
  font-weight: 500;
}

.what {
  flex: 1 1 200px;
  min-width: 0;
}

.what > strong {
  margin-right: 10px;
}

.what p {
  margin: 3px 0 0;
}

.steps {
  padding-left: 18px;
  list-style: disc;
}

.check {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: center;
}

.check a {
  display: inline-flex;
  align-items: center;
  height: auto;
  min-height: 32px;
  font-weight: 600;
  white-space: normal;
}

.skip {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
  margin-top: 8px;
}

.acts {
  display: flex;
  gap: 8px;
  align-items: flex-start;
}

@media (max-width: 760px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .acts {
    width: 100%;
    padding-left: 38px;
  }
}

/* Fingers, on a tablet too. */
@media (max-width: 760px), (pointer: coarse) {
  .acts :deep(.el-button) {
    min-width: 96px;
    min-height: 44px;
  }

  .check a {
    min-height: 44px;
  }
}
</style>
