<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { answer, api, type WorkDetail, type WorkState } from '../common/api'
import { fromLocal, stateWords, toLocal, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import AfterValue from '../watch/AfterValue.vue'
import { givenValue } from '../watch/given'
import { usePeople } from '../common/usePeople'
import { useChange } from '../common/useChange'

const props = defineProps<{ work: WorkDetail }>()

const { people } = usePeople()

/** What each move is called on its button. */
const verbs: Record<WorkState, string> = {
  raised: 'Raise',
  planning: 'Plan',
  waiting: 'Wait…',
  ready: 'Make ready',
  scheduled: 'Schedule',
  under_way: 'Start',
  done: 'Done…',
  returned: 'Ask back…',
  closed: 'Close…',
  dropped: 'Drop…',
}
/** Moves that ask for something first. */
const asks: WorkState[] = ['waiting', 'done', 'returned', 'closed', 'dropped']

/** Moves that nobody takes back: their button names what they end. */
const endings: Partial<Record<WorkState, string>> = { closed: 'Close', dropped: 'Drop' }

const moving = ref<WorkState>()
const nothing = () => ({
  note: '',
  waiting_for: 'parts' as const,
  expected_until: '',
  question: '',
  asked: '',
  verdict: '',
  at: '',
  /** By code of the meter: what is read now that it is done. */
  readings: {} as Record<string, string>,
})
const given = reactive(nothing())
/** The move that was the last when this one was begun. */
let seen = 0
/** What was typed for a move goes with it, and with no other. */
function close() {
  moving.value = undefined
  Object.assign(given, nothing())
}
/** The readings that were given. */
const readings = () =>
  props.work.waiting_meters.flatMap((one) => {
    const value = given.readings[one.meter]?.trim()
    return value ? [{ meter: one.meter, value: givenValue(value, one.grades.length > 0) }] : []
  })
const { mutate, error, isPending, reset } = useChange(
  (to: WorkState) =>
    answer(
      api.POST('/api/v1/work-orders/{number}/state', {
        params: { path: { number: props.work.number }, query: { based_on: seen } },
        body: {
          to,
          note: given.note || undefined,
          at: fromLocal(given.at),
          waiting_for: to === 'waiting' ? given.waiting_for : undefined,
          expected_until: to === 'waiting' ? fromLocal(given.expected_until) : undefined,
          question: to === 'returned' ? given.question : undefined,
          asked: to === 'returned' ? given.asked : undefined,
          readings: to === 'done' ? readings() : undefined,
          verdict: to === 'done' && given.verdict ? (given.verdict as 'found_it') : undefined,
        },
      }),
    ),
  close,
)

function press(to: WorkState) {
  reset()
  const isOpen = moving.value === to
  close()
  seen = props.work.change
  if (!asks.includes(to)) return mutate(to)
  if (isOpen) return
  if (to === 'done') given.at = toLocal(now.value)
  moving.value = to
}
/** The way ahead first: dropping last. */
const main = computed(() => props.work.moves.find((state) => state !== 'dropped' && state !== 'waiting'))
</script>

<template>
  <div class="moves">
    <div v-if="work.moves.length" class="buttons">
      <ElButton
        v-for="state in work.moves"
        :key="state"
        :type="state === main ? 'primary' : undefined"
        :loading="isPending && !asks.includes(state)"
        :data-test="`move-${state}`"
        @click="press(state)"
      >
        {{ state === 'waiting' && work.state === 'waiting' ? 'Wait for something else…' : verbs[state] }}
      </ElButton>
    </div>
    <p v-else-if="!['closed', 'dropped'].includes(work.state)" class="quiet small">
      Moving this work on is somebody else’s to do.
    </p>
    <form v-if="moving" class="inset" @submit.prevent="mutate(moving)" @keydown.esc.stop="close">
      <template v-if="moving === 'waiting'">
        <label class="field">
          Waits for
          <select v-model="given.waiting_for" class="line">
            <option value="parts">parts</option>
            <option value="outage">an outage</option>
            <option value="people">people</option>
            <option value="other">something else</option>
          </select>
        </label>
        <label class="field"
          >Expected until <input v-model="given.expected_until" class="line" type="datetime-local"
        /></label>
      </template>
      <template v-if="moving === 'returned'">
        <label class="field wide">Question <input v-model="given.question" class="line" /></label>
        <label class="field">
          Whom do you ask?
          <select v-model="given.asked" class="line" name="asked">
            <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
          </select>
        </label>
      </template>
      <template v-if="moving === 'done'">
        <label class="field"
          >Done at <input v-model="given.at" class="line" type="datetime-local" name="done-at"
        /></label>
        <label v-if="work.why" class="field">
          Was the alarm right?
          <select v-model="given.verdict" class="line" name="verdict">
            <option value="">not said</option>
            <option value="found_it">found it</option>
            <option value="nothing_wrong">nothing wrong</option>
            <option value="other">other</option>
          </select>
        </label>
        <label v-for="one in work.waiting_meters" :key="one.meter" class="field">
          {{ one.meter_name }} now
          <span class="after">
            <AfterValue
              :model-value="given.readings[one.meter] ?? ''"
              :grades="one.grades"
              :label="`${one.meter_name} now`"
              :data-test="`after-${one.meter}`"
              @update:model-value="given.readings[one.meter] = $event"
            />
            {{ unit(one.unit) }}
          </span>
        </label>
        <p v-if="work.waiting_meters.length" class="quiet small note">
          The first reading after the finish says whether the repair held. Without one it is listed as not yet
          confirmed.
        </p>
      </template>
      <p v-if="moving === 'closed'" class="quiet small note">
        Its cost is settled, and it is not opened again.
      </p>
      <label class="field wide">
        {{ moving === 'dropped' ? 'Why it is dropped' : 'Note' }}
        <input v-model="given.note" class="line" name="note" />
      </label>
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="move-confirm">
        {{ endings[moving] ? `${endings[moving]} work ${work.number}` : `Set to ${stateWords[moving]}` }}
      </ElButton>
      <button type="button" class="act" @click="close">Cancel</button>
    </form>
    <ProblemNote :error="error" />
  </div>
</template>

<style scoped>
.after {
  display: flex;
  gap: 6px;
  align-items: center;
}

.note {
  flex-basis: 100%;
  margin: 0;
}

.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.buttons :deep(.el-button + .el-button) {
  margin-left: 0;
}
</style>
