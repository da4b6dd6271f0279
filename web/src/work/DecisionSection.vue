<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { ago, count, date, dateTime, money, plain, unit } from '../common/format'
import { installation, now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import { decide, withdrawDecision } from './changes'
import DecisionOver from './DecisionOver.vue'

/** What a rung handed up to somebody to decide: what is known, and the three answers; and what was answered before. */
const props = defineProps<{ work: WorkDetail }>()
const { to } = useAddress()
type Answer = Schemas['RiskAnswer']

const open = computed(() => props.work.decisions.find((one) => one.is_open))
/** What lets it run on now; it can be changed and withdrawn. */
const running = computed(() => props.work.decisions.find((one) => one.runs_on))
const over = computed(() => props.work.decisions.filter((one) => !one.is_open && !one.runs_on))
/** What is done about a decision that lets it run on. */
const doing = ref<'change' | 'withdraw'>()
/** The decision that is being answered. */
const asked = computed(() => open.value ?? (doing.value === 'change' ? running.value : undefined))
const known = computed(() => props.work.known)
const chosen = ref<Answer>()
const given = reactive({ until: '', reason: '' })
const done = () => {
  chosen.value = doing.value = undefined
  given.reason = ''
}
const send = useChange(decide, done)
const withdrawal = useChange(withdrawDecision, done)
const wrong = (field: string) => (send.problem.value ?? withdrawal.problem.value)?.of(field)
function turn(to: 'change' | 'withdraw') {
  doing.value = doing.value === to ? undefined : to
  given.until = running.value?.until ?? ''
}
function withdraw() {
  if (!running.value) return
  withdrawal.mutate({ number: props.work.number, id: running.value.id, body: { reason: given.reason } })
}
const answers: { key: Answer; name: string; says: string }[] = [
  { key: 'do_now', name: 'Do it now', says: 'The work becomes rank 1 and is to begin at once.' },
  { key: 'run_on', name: 'Run on until …', says: 'Its limit is quiet until then, unless it gets worse.' },
  { key: 'stop', name: 'Stop it', says: 'Downtime begins now, and the work with it.' },
]
const words: Record<Answer, string> = { do_now: 'do it now', run_on: 'run on', stop: 'stop it' }
function answer() {
  if (!asked.value || !chosen.value) return
  const until = chosen.value === 'run_on' ? given.until || undefined : undefined
  const body = { answer: chosen.value, until, reason: given.reason }
  send.mutate({ number: props.work.number, id: asked.value.id, body })
}
</script>

<template>
  <section class="decision" data-test="decision">
    <template v-if="open">
      <h2>
        {{ open.may_answer ? 'Yours to decide' : `${open.asked} decides` }}
        <span class="small" :class="open.is_late ? 'late' : 'quiet'"
          >asked {{ ago(open.asked_at, now) }}</span
        >
      </h2>
      <ul>
        <li>
          <SeverityStrokes :severity="open.severity" word /> on
          <RouterLink :to="to(`/watch/${open.meter}`)">{{ open.meter_name }}</RouterLink>
        </li>
        <li v-if="known?.next_at">
          As it goes on it is {{ known.next_severity }} ({{ plain(known.next_setpoint ?? 0) }}
          {{ unit(open.unit) }}) on <strong>{{ date(known.next_at) }}</strong><template
            v-if="known.next_earliest && date(known.next_earliest) !== date(known.next_at)"
            >, {{ date(known.next_earliest) }} at the earliest</template
          >.
        </li>
        <li v-else>As it goes on it gets to no worse limit.</li>
        <li v-if="known?.cost_per_hour != null">
          A stop costs <strong>{{ money(known.cost_per_hour) }} {{ installation.currency }}</strong> an hour
          ({{ known.cost_of }}).
        </li>
        <li v-if="known">
          {{
            known.open_work ? count(known.open_work, 'other order is', 'other orders are') : 'Nothing else is'
          }}
          open on it<template v-if="known.waiting_work">, {{ known.waiting_work }} waiting</template>.
        </li>
      </ul>
    </template>
    <template v-else-if="running">
      <h2 data-test="runs-on">
        It runs on until {{ running.until ? dateTime(running.until) : '' }}
        <span class="small quiet">by decision of {{ running.answered_by }}</span>
      </h2>
      <p>
        <SeverityStrokes :severity="running.severity" word /> on
        <RouterLink :to="to(`/watch/${running.meter}`)">{{ running.meter_name }}</RouterLink> is quiet until
        then, unless it gets worse. {{ running.reason }}
      </p>
      <p v-if="running.may_answer" class="no-print">
        <button
          class="act"
          :aria-expanded="doing === 'change'"
          data-test="change-decision"
          @click="turn('change')"
        >
          Change
        </button>
        <button
          class="act"
          :aria-expanded="doing === 'withdraw'"
          data-test="withdraw-decision"
          @click="turn('withdraw')"
        >
          Withdraw
        </button>
      </p>
      <form v-if="doing === 'withdraw'" @submit.prevent="withdraw" @keydown.esc.stop="doing = undefined">
        <TextField v-model="given.reason" label="Why" long name="reason" needed :wrong="wrong('reason')" />
        <p>
          <ElButton
            type="primary"
            native-type="submit"
            :loading="withdrawal.isPending.value"
            data-test="withdraw"
            >Withdraw the decision</ElButton
          >
        </p>
        <ProblemNote :error="withdrawal.error.value" />
      </form>
    </template>
    <template v-if="asked">
      <form v-if="asked.may_answer" @submit.prevent="answer">
        <div class="answers" role="radiogroup" aria-label="Decision">
          <button
            v-for="one in answers"
            :key="one.key"
            type="button"
            role="radio"
            :aria-checked="chosen === one.key"
            :class="{ chosen: chosen === one.key }"
            :data-test="`decide-${one.key}`"
            @click="chosen = one.key"
          >
            <strong>{{ one.name }}</strong>
            <span class="quiet small">{{ one.says }}</span>
          </button>
        </div>
        <template v-if="chosen">
          <InstantField
            v-if="chosen === 'run_on'"
            v-model="given.until"
            label="Until"
            name="until"
            :wrong="wrong('until')"
          />
          <TextField
            v-model="given.reason"
            :label="chosen === 'do_now' && open ? 'What else to say' : 'Why'"
            long
            name="reason"
            :wrong="wrong('reason')"
          />
          <p>
            <ElButton type="primary" native-type="submit" :loading="send.isPending.value" data-test="decide">
              Decide: {{ words[chosen] }}
            </ElButton>
          </p>
        </template>
        <ProblemNote :error="send.error.value" />
      </form>
    </template>
    <DecisionOver v-for="one in over" :key="one.id" :decision="one" />
  </section>
</template>

<style scoped>
h2 .small {
  font-family: var(--sans);
}

.decision {
  margin-bottom: 14px;
  padding: 10px 14px;
  border: 1.5px solid var(--ink);
}

ul {
  margin: 6px 0 10px;
  padding: 0;
  list-style: none;
}

.answers {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
  margin-bottom: 10px;
}

.answers button {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 9px 12px;
  text-align: left;
  font: inherit;
  color: inherit;
  background: none;
  border: 1px solid var(--ink-3);
  cursor: pointer;
}

.answers .chosen {
  border: 1.5px solid var(--accent);
  background: var(--paper-2);
}

form {
  display: grid;
  gap: 8px;
}

p {
  margin: 4px 0;
}

.late {
  color: var(--worse);
  font-weight: 600;
}

@media (max-width: 700px) {
  .answers {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
