<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import FormField from '../common/fields/FormField.vue'
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { reactive, ref } from 'vue'
import { type Schemas, type WorkDetail, type WorkState } from '../common/api'
import { onTheMinute, stateWords, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import ReadingValue from '../common/fields/ReadingValue.vue'
import { givenValue } from '../common/fields/given'
import { usePeople } from '../common/usePeople'
import { useChange } from '../common/change/useChange'
import WaitFields from './WaitFields.vue'
import { moveWork } from './changes'

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
/** The word on the button that makes a move which nobody takes back: with the number of what it ends. */
const endings: Partial<Record<WorkState, string>> = { closed: 'Close', dropped: 'Drop' }

type Move = WorkDetail['moves'][number]
/** The move whose fields are open. */
const moving = ref<Move>()
const isAsked = (field: Move['asks'][number]['field']) =>
  moving.value?.asks.some((ask) => ask.field === field)
const isNeeded = (field: Move['asks'][number]['field']) =>
  moving.value?.asks.some((ask) => ask.field === field && ask.required)
const nothing = () => ({
  note: '',
  waiting_for: 'parts' as Schemas['WaitingFor'],
  expected_until: '',
  question: '',
  asked: '',
  verdict: '',
  at: '',
  downtime: '' as '' | Schemas['DroppedDowntime'],
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
const { mutate: send, error, problem, isPending, reset } = useChange(moveWork, close)
function mutate(to: WorkState) {
  const read = isAsked('readings') ? readings() : undefined
  send(
    {
      number: props.work.number,
      body: {
        to,
        note: given.note || undefined,
        // What was left at this minute is now.
        at: given.at && given.at !== onTheMinute(now.value) ? given.at : undefined,
        waiting_for: isAsked('waiting_for') ? given.waiting_for : undefined,
        expected_until: (isAsked('expected_until') && given.expected_until) || undefined,
        question: isAsked('question') ? given.question : undefined,
        asked: isAsked('asked') ? given.asked : undefined,
        readings: read,
        downtime: (isAsked('downtime') && given.downtime) || undefined,
        verdict: isAsked('verdict') && given.verdict ? (given.verdict as 'found_it') : undefined,
      },
      meters: read?.map((one) => one.meter),
    },
    seen,
  )
}

function press(move: Move) {
  reset()
  const isOpen = moving.value?.to === move.to
  close()
  seen = props.work.change
  if (!move.asks.length) return mutate(move.to)
  if (isOpen) return
  if (move.asks.some((ask) => ask.field === 'at')) given.at = onTheMinute(now.value)
  moving.value = move
}
defineExpose({ press })
</script>

<template>
  <div class="moves">
    <div v-if="work.moves.length" class="buttons">
      <ElButton
        v-for="move in work.moves"
        :key="move.to"
        :type="move.ahead ? 'primary' : undefined"
        :loading="isPending && !move.asks.length"
        :data-test="`move-${move.to}`"
        @click="press(move)"
      >
        {{ move.to === 'waiting' && work.state === 'waiting' ? 'Wait for something else…' : verbs[move.to] }}
      </ElButton>
    </div>
    <p v-else-if="!work.is_over" class="quiet small">Moving this work on is somebody else’s to do.</p>
    <form v-if="moving" v-arrive class="inset" @submit.prevent="mutate(moving.to)" @keydown.esc.stop="close">
      <WaitFields
        v-if="isAsked('waiting_for')"
        v-model:waiting-for="given.waiting_for"
        v-model:expected-until="given.expected_until"
        :parts-expected-on="work.parts_expected_on"
      />
      <template v-if="isAsked('question')">
        <TextField v-model="given.question" class="wide" label="Question" />
        <ChoiceField v-model="given.asked" label="Whom do you ask?" name="asked">
          <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
        </ChoiceField>
      </template>
      <template v-if="isAsked('at')">
        <InstantField v-model="given.at" label="Done at" name="done-at" />
        <ChoiceField
          v-if="isAsked('verdict')"
          v-model="given.verdict"
          label="Was the alarm right?"
          name="verdict"
        >
          <option value="">not said</option>
          <option value="found_it">found it</option>
          <option value="nothing_wrong">nothing wrong</option>
          <option value="other">other</option>
        </ChoiceField>
        <FormField
          v-for="one in isAsked('readings') ? work.waiting_meters : []"
          :key="one.meter"
          v-slot="{ field }"
          :label="`${one.meter_name} now`"
        >
          <span class="after">
            <ReadingValue
              v-bind="field"
              :model-value="given.readings[one.meter] ?? ''"
              :grades="one.grades"
              :data-test="`after-${one.meter}`"
              @update:model-value="given.readings[one.meter] = $event"
            />
            {{ unit(one.unit) }}
          </span>
        </FormField>
        <p v-if="isAsked('readings')" class="quiet small note">
          The first reading after the finish says whether the repair held. Without one it is listed as not yet
          confirmed.
        </p>
      </template>
      <ChoiceField
        v-if="isAsked('downtime')"
        v-model="given.downtime"
        label="What becomes of its downtime?"
        name="downtime-becomes"
        :wrong="problem?.of('downtime')"
      >
        <option value="">choose</option>
        <option value="delete">It was none: delete it</option>
        <option value="keep">It was so: keep it on the asset, without the order</option>
        <option value="end">Keep it with the order; end now what is open</option>
      </ChoiceField>
      <p v-if="moving.to === 'closed'" class="quiet small note">
        Its cost is settled, and it is not opened again.
      </p>
      <TextField
        v-model="given.note"
        class="wide"
        :label="isNeeded('note') ? 'Why' : 'Note'"
        name="note"
        :needed="isNeeded('note')"
      />
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="move-confirm">
        {{ moving.ends ? `${endings[moving.to]} work ${work.number}` : `Set to ${stateWords[moving.to]}` }}
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
