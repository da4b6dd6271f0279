<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import InstantField from '../common/fields/InstantField.vue'
import NumberField from '../common/fields/NumberField.vue'
import { byName, dateTime, duration, hours, onTheMinute } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { usePeople } from '../common/usePeople'
import { addHours, changeTime } from './changes'

/** Whose time runs on an order; hours that are typed, for one or for several people. */
const props = defineProps<{ work: WorkDetail }>()
const { people, acting } = usePeople()
const mayReport = computed(() => props.work.may_tick && !props.work.is_over)

type Running = WorkDetail['running'][number]
const stopping = ref<Running>()
const end = ref('')
const time = useChange(changeTime, () => (stopping.value = undefined))
const ran = ({ since }: Running) => Math.max(now.value - Date.parse(since), 0)
const stop = (one: Running, at?: string) =>
  time.mutate({
    number: props.work.number,
    body: { running: false, people: [one.person], at },
  })
/** When it ended is asked where it is not now. */
function ask(one: Running) {
  time.reset()
  end.value = onTheMinute(now.value)
  stopping.value = stopping.value?.person === one.person ? undefined : one
}

const isTyping = ref(false)
type Person = (typeof people.value)[number]
/** Hours are those of whoever is in a crew, or has a rate. */
const hasHours = (one: Person) => one.crew != null || one.rate != null
const own = computed(() => people.value.filter((one) => one.code === acting.value && hasHours(one)))
const fresh = () => ({
  hours: null as number | null,
  at: onTheMinute(now.value),
  people: own.value.map(({ code }) => code),
})
const given = reactive(fresh())
const typed = useChange(addHours, () => (isTyping.value = false))
function open() {
  typed.reset()
  Object.assign(given, fresh())
  isTyping.value = !isTyping.value
}
/** Whoever says it, then the crew that the work is for; then everybody else. */
const ofCrew = computed(() => [
  ...own.value,
  ...people.value
    .filter((one) => one.code !== acting.value && props.work.crew != null && one.crew === props.work.crew)
    .sort((one, other) => byName(one.name, other.name)),
])
const others = computed(() =>
  people.value
    .filter((one) => hasHours(one) && !ofCrew.value.includes(one) && !given.people.includes(one.code))
    .sort((one, other) => byName(one.name, other.name)),
)
const further = computed(() =>
  people.value.filter((one) => given.people.includes(one.code) && !ofCrew.value.includes(one)),
)
function join(event: Event) {
  const field = event.target as HTMLSelectElement
  if (field.value) given.people.push(field.value)
  field.value = ''
}
const send = () =>
  typed.mutate({
    number: props.work.number,
    body: { hours: String(given.hours ?? ''), people: given.people, at: given.at || undefined },
  })
</script>

<template>
  <section v-if="mayReport || work.running.length" class="no-print" data-test="time">
    <h2>
      Time
      <span class="quiet small">
        {{ hours(work.spent_hours) }} h<template v-if="work.estimated_hours != null">
          of {{ hours(work.estimated_hours) }} h</template
        >
      </span>
      <button v-if="mayReport" class="act" data-test="type-hours" :aria-expanded="isTyping" @click="open">
        {{ isTyping ? 'Not now' : 'Report hours' }}
      </button>
    </h2>
    <ul v-if="work.running.length">
      <li v-for="one in work.running" :key="one.person" :data-test="`running-${one.person}`">
        <span>
          <strong>{{ one.name }}</strong> since {{ dateTime(one.since) }}
          <span class="quiet">{{ duration(ran(one)) }}</span>
        </span>
        <span v-if="mayReport" class="do">
          <ElButton :loading="time.isPending.value" data-test="stop-time" @click="stop(one)">Stop</ElButton>
          <button class="act" data-test="stop-earlier" @click="ask(one)">Ended earlier</button>
        </span>
        <form
          v-if="stopping?.person === one.person"
          v-arrive
          class="inset"
          @submit.prevent="stop(one, end)"
          @keydown.esc.stop="stopping = undefined"
        >
          <InstantField
            v-model="end"
            label="Ended at"
            name="ended-at"
            :wrong="time.problem.value?.of('at')"
          />
          <ElButton type="primary" native-type="submit" data-test="stop-then">Stop then</ElButton>
        </form>
      </li>
    </ul>
    <ProblemNote :error="time.error.value" />
    <form v-if="isTyping" v-arrive class="inset" @submit.prevent="send" @keydown.esc.stop="isTyping = false">
      <NumberField
        v-model="given.hours"
        class="narrow"
        label="Hours"
        name="typed-hours"
        required
        :wrong="typed.problem.value?.of('hours')"
      />
      <InstantField v-model="given.at" label="Until" name="hours-at" :wrong="typed.problem.value?.of('at')" />
      <fieldset>
        <legend>Of whom, each</legend>
        <label v-for="one in [...ofCrew, ...further]" :key="one.code">
          <input v-model="given.people" type="checkbox" :value="one.code" :data-test="`of-${one.code}`" />
          {{ one.name }}
        </label>
        <select class="line" aria-label="Somebody else" @change="join">
          <option value="">Somebody else …</option>
          <option v-for="one in others" :key="one.code" :value="one.code">{{ one.name }}</option>
        </select>
      </fieldset>
      <ElButton
        type="primary"
        native-type="submit"
        :loading="typed.isPending.value"
        :disabled="!given.people.length"
        data-test="save-hours"
        >Report</ElButton
      >
      <ProblemNote :error="typed.error.value" />
    </form>
  </section>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}

li form {
  flex-basis: 100%;
}

.do {
  display: flex;
  gap: 14px;
  align-items: center;
}

fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: center;
  margin: 0;
  padding: 0;
  border: 0;
}

legend {
  font-size: 13px;
  font-weight: 600;
  color: var(--ink-2);
}

fieldset label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 34px;
}

fieldset select {
  width: auto;
}

input[type='checkbox'] {
  width: 18px;
  height: 18px;
}
</style>
