<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import type { Schemas, WorkState } from '../common/api'
import { useChange } from '../common/change/useChange'
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { dateTime, kindWords, stateWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { crews as crewsAsked } from '../common/queries/plant'
import { usePeople } from '../common/usePeople'
import WaitFields from './WaitFields.vue'
import { changeSeveral } from './changes'
import { severalTried } from './queries/orders'
import { useAddress } from '../common/useAddress'
import { NONE, deeds, useSeveral } from './useSeveral'

/** The same done to the chosen orders: what it would do stands below before it is done. */
const props = defineProps<{ orders: number[] }>()
const emit = defineEmits<{ done: []; none: [] }>()

const { people } = usePeople()
const { data: crews } = useQuery(crewsAsked())
const { given, asked } = useSeveral()
const { to } = useAddress()

const trying = refDebounced(
  computed(() => asked.value && { orders: props.orders, ...asked.value }),
  200,
)
const { data: tried, error: tryError } = useQuery(() => ({
  ...severalTried(trying.value ?? { orders: [] }),
  enabled: trying.value !== undefined,
  placeholderData: keepPreviousData,
}))
const preview = computed(() => (trying.value ? tried.value : undefined))
const { mutate, error, isPending } = useChange(changeSeveral, () => emit('done'))

/** Work is not raised again, and asked back one by one. */
const states = (Object.keys(stateWords) as WorkState[]).filter(
  (one) => one !== 'raised' && one !== 'returned',
)
const refused = computed(() => preview.value?.orders.filter((one) => one.refused) ?? [])
const same = computed(() => {
  const all = preview.value
  return all ? all.orders.length - all.done - all.refused : 0
})
const count = (of: number) => (of === 1 ? '1 order' : `${of} orders`)

const fields: Record<string, string> = {
  state: 'state',
  waiting_for: 'waits for',
  expected_until: 'expected',
  risk_rank: 'rank',
  window_end: 'window ends',
  crew: 'crew',
  assignee: 'assigned to',
  scheduled_start: 'from',
  scheduled_end: 'to',
}
const words = { ...stateWords, ...kindWords } as Record<string, string>
const value = (one: string | null | undefined) => {
  if (one == null) return '–'
  return /^\d{4}-\d\d-\d\dT/.test(one) ? dateTime(one) : (words[one] ?? one)
}
const says = (change: Schemas['WorkDifference']) =>
  `${fields[change.field] ?? change.field} ${value(change.from)} → ${value(change.to)}`
</script>

<template>
  <section class="several no-print" aria-label="The chosen work" data-test="several">
    <form class="inset" @submit.prevent="asked && mutate({ orders, ...asked })">
      <p class="chosen">
        <strong data-test="chosen">{{ orders.length }} chosen</strong>
        <span>
          <RouterLink
            :to="to('/work/sheets', { orders: orders.join(',') })"
            class="act"
            data-test="print-several"
          >
            Sheets to print
          </RouterLink>
          <button type="button" class="act" @click="emit('none')">Choose none</button>
        </span>
      </p>
      <ChoiceField v-model="given.deed" label="Do" name="deed">
        <option v-for="(name, deed) in deeds" :key="deed" :value="deed">{{ name }}</option>
      </ChoiceField>
      <template v-if="given.deed === 'state'">
        <ChoiceField v-model="given.state" label="State" name="several-state">
          <option v-for="state in states" :key="state" :value="state">{{ stateWords[state] }}</option>
        </ChoiceField>
        <WaitFields
          v-if="given.state === 'waiting'"
          v-model:waiting-for="given.waiting_for"
          v-model:expected-until="given.expected_until"
        />
        <TextField
          v-if="given.state === 'dropped'"
          v-model="given.note"
          label="Why"
          name="several-note"
          needed
          class="wide"
        />
      </template>
      <ChoiceField v-else-if="given.deed === 'crew'" v-model="given.crew" label="Crew" name="several-crew">
        <option value="" disabled>choose…</option>
        <option v-for="one in crews" :key="one.code" :value="one.code">{{ one.name }}</option>
        <option :value="NONE">no crew</option>
      </ChoiceField>
      <ChoiceField
        v-else-if="given.deed === 'assignee'"
        v-model="given.assignee"
        label="Person"
        name="several-assignee"
      >
        <option value="" disabled>choose…</option>
        <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
        <option :value="NONE">nobody</option>
      </ChoiceField>
      <ChoiceField
        v-else-if="given.deed === 'rank'"
        v-model="given.rank"
        label="Risk rank"
        name="several-rank"
      >
        <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
      </ChoiceField>
      <template v-else>
        <InstantField
          v-model="given.start"
          label="Start"
          name="several-start"
          :disabled="given.unscheduled"
        />
        <InstantField v-model="given.end" label="End" name="several-end" :disabled="given.unscheduled" />
        <label class="check"><input v-model="given.unscheduled" type="checkbox" /> no date</label>
      </template>
      <ElButton
        type="primary"
        native-type="submit"
        :disabled="!preview?.done"
        :loading="isPending"
        data-test="several-do"
      >
        {{ preview?.done ? `Change ${count(preview.done)}` : 'Nothing changes yet' }}
      </ElButton>
    </form>
    <p v-if="preview" class="quiet small says" data-test="several-says">
      <span
        >{{ count(preview.done) }} {{ preview.done === 1 ? 'changes' : 'change'
        }}<template v-if="refused.length">, {{ refused.length }} can’t</template
        ><template v-if="same">, {{ same === 1 ? '1 is' : `${same} are` }} so already</template>.</span
      >
    </p>
    <details v-if="preview && (preview.done || refused.length)" class="small">
      <summary>Each of them</summary>
      <ul>
        <li v-for="one in preview.orders" :key="one.number" :class="{ refused: one.refused }">
          <span class="quiet">{{ one.number }}</span>
          <span>{{ one.title }}</span>
          <span>{{ one.refused ?? (one.changes.map(says).join(', ') || 'so already') }}</span>
        </li>
      </ul>
    </details>
    <ProblemNote :error="error ?? tryError" />
  </section>
</template>

<style scoped>
.several {
  position: sticky;
  top: 0;
  z-index: 5;
  margin-bottom: 10px;
  padding-bottom: 6px;
  background: var(--paper-2);
  border-bottom: 1.5px solid var(--ink);
}

form.inset {
  margin: 0;
  padding-bottom: 6px;
}

.chosen {
  display: flex;
  flex-direction: column;
  min-width: 92px;
  margin: 0;
}

.chosen .act {
  padding: 0;
  text-align: left;
}

.check {
  padding-bottom: 7px;
}

.says,
details {
  margin: 0;
  padding: 0 12px;
}

ul {
  max-height: 220px;
  margin: 4px 0 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 60px minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 10px;
  padding: 2px 0;
  border-top: 1px solid var(--rule);
}

.refused {
  color: var(--worse);
}
</style>
