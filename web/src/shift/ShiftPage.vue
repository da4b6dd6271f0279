<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../common/api'
import EmptyState from '../common/EmptyState.vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import DateField from '../common/fields/DateField.vue'
import { byName, count, dateTime, duration, localDate, toLocal, weekday } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { crews } from '../common/queries/plant'
import { useAddress } from '../common/useAddress'
import { usePeople } from '../common/usePeople'
import { shift } from './queries/shift'
import ShiftRow from './ShiftRow.vue'
import { useTakenAlong } from './useTakenAlong'

/** One line of time: what is late above now, today below it, then the days ahead. */
const { read, change, to } = useAddress()
const person = computed(() => read('person'))
const crew = computed(() => read('crew'))
const { data, error } = useQuery(() => ({
  ...shift(person.value, crew.value),
  placeholderData: keepPreviousData,
}))
const { opensOffline } = useTakenAlong()
const { people, acting } = usePeople()
const allCrews = useQuery(crews())
const others = computed(() =>
  people.value.filter(({ code }) => code !== acting.value).sort((one, other) => byName(one.name, other.name)),
)
/** Whose line is shown, as one choice. */
const whose = computed({
  get: () => (crew.value ? `crew ${crew.value}` : person.value ? `person ${person.value}` : ''),
  set: (said: string) => {
    const [kind, code] = [said.split(' ')[0], said.split(' ').slice(1).join(' ')]
    void change({
      crew: kind === 'crew' ? code : '',
      person: kind === 'person' ? code : '',
    })
  },
})

type Part = Schemas['ShiftPart']
const words: Record<Part['at'], string> = {
  late: 'Late',
  now: 'Under way',
  today: 'Today',
  ahead: '',
  no_day: 'No day yet',
  finished: 'Finished today',
}
const nameOf = (part: Part) => (part.day ? `${weekday(part.day)} ${localDate(part.day)}` : words[part.at])
const text = computed(() => read('find').toLowerCase())
const rank = computed(() => Number(read('rank')) || undefined)
/** The last day that is looked at, as the installation's clocks show it: of what has no day, that by which it is due. */
const until = computed(() => read('until'))
const dayOf = (order: Schemas['ShiftOrder']) => order.day ?? toLocal(order.due).slice(0, 10)
const fits = (order: Schemas['ShiftOrder']) =>
  (!rank.value || order.risk_rank <= rank.value) &&
  (!until.value || dayOf(order) <= until.value) &&
  [
    order.title,
    order.asset.name,
    order.asset.code,
    String(order.number),
    ...order.above.map(({ name }) => name),
  ]
    .join(' ')
    .toLowerCase()
    .includes(text.value)
const parts = computed(() =>
  (data.value?.parts ?? [])
    .map((part) => ({ ...part, orders: part.orders.filter(fits) }))
    .filter(({ orders }) => orders.length),
)
const late = computed(() => parts.value.filter(({ at }) => at === 'late'))
const rest = computed(() => parts.value.filter(({ at }) => at !== 'late'))
const isUnfolded = ref(false)
/** On a phone what is asked is folded away, unless something is. */
const isAsking = ref([person, crew, text, rank, until].some((asked) => asked.value))
const now = computed(() => Date.parse(data.value?.now ?? ''))
const lateCount = computed(() => late.value.reduce((sum, { orders }) => sum + orders.length, 0))
</script>

<template>
  <div class="shift">
    <ProblemNote :error="data ? undefined : error" />
    <template v-if="data">
      <h1>{{ data.of }}</h1>
      <p class="says" data-test="shift-says">
        <span>
          {{ count(data.to_do, 'job', 'jobs') }} to do<template v-if="lateCount"
            >, <strong class="late">{{ lateCount }} late</strong></template
          >
        </span>
        <button
          class="act asks no-print"
          :aria-expanded="isAsking"
          data-test="shift-ask"
          @click="isAsking = !isAsking"
        >
          {{ isAsking ? 'Fold away' : 'Find, whose' }}
        </button>
      </p>
      <RouterLink
        v-if="data.running"
        :to="to(`/shift/${data.running.work_order}`)"
        class="running"
        data-test="shift-running"
      >
        <strong>{{ duration(Math.max(now - Date.parse(data.running.since), 0)) }}</strong>
        <span>your time runs on {{ data.running.title }}</span>
      </RouterLink>
      <div class="ask no-print" :class="{ folded: !isAsking }">
        <ChoiceField v-model="whose" label="Whose" name="shift-of">
          <option value="">your own</option>
          <optgroup label="Crews">
            <option v-for="one in allCrews.data.value" :key="one.code" :value="`crew ${one.code}`">
              {{ one.name }}
            </option>
          </optgroup>
          <optgroup label="People">
            <option v-for="one in others" :key="one.code" :value="`person ${one.code}`">
              {{ one.name }}
            </option>
          </optgroup>
        </ChoiceField>
        <ChoiceField
          :model-value="read('rank')"
          label="Rank"
          name="shift-rank"
          @update:model-value="change({ rank: String($event ?? '') }, { replace: true })"
        >
          <option value="">any</option>
          <option v-for="one in [1, 2, 3, 4]" :key="one" :value="String(one)">
            {{ one === 1 ? 'only 1' : `1 to ${one}` }}
          </option>
        </ChoiceField>
        <DateField
          class="until"
          label="Up to"
          name="shift-until"
          :model-value="until"
          @update:model-value="change({ until: $event ?? '' }, { replace: true })"
        />
        <label class="find">
          <span class="small">Find</span>
          <input
            class="line"
            type="search"
            name="shift-find"
            placeholder="Job, asset or number"
            :value="read('find')"
            @input="change({ find: ($event.target as HTMLInputElement).value }, { replace: true })"
          />
        </label>
      </div>
      <section v-for="part in late" :key="part.at" class="part" data-test="part-late">
        <h2 class="late">{{ nameOf(part) }}</h2>
        <ShiftRow v-for="order in part.orders" :key="order.number" :order="order" :at="part.at" :now="now" />
      </section>
      <p class="now" data-test="shift-now">
        <span>now</span><span class="quiet small">{{ dateTime(data.now) }}</span>
      </p>
      <section
        v-for="part in rest"
        :key="part.day ?? part.at"
        class="part"
        :data-test="`part-${part.day ?? part.at}`"
      >
        <h2>
          <button
            v-if="part.at === 'finished'"
            class="act fold"
            :aria-expanded="isUnfolded"
            @click="isUnfolded = !isUnfolded"
          >
            {{ nameOf(part) }}: {{ part.orders.length }}
          </button>
          <template v-else>{{ nameOf(part) }}</template>
        </h2>
        <template v-if="part.at !== 'finished' || isUnfolded">
          <ShiftRow
            v-for="order in part.orders"
            :key="order.number"
            :order="order"
            :at="part.at"
            :now="now"
          />
        </template>
      </section>
      <p v-if="typeof opensOffline === 'object'" class="quiet small no-print" data-test="not-offline">
        Without a network this page does not open here: {{ opensOffline.not }}. What you answer on a page that
        is open is kept all the same.
      </p>
      <EmptyState v-if="!parts.length" title="Nothing to do">
        {{
          data.to_do
            ? 'Nothing fits what is asked for.'
            : 'What is ready or scheduled for you, and what is scheduled for your crew and nobody’s yet, stands here.'
        }}
      </EmptyState>
    </template>
  </div>
</template>

<style scoped>
.shift {
  max-width: 720px;
  margin: 0 auto;
}

h1 {
  margin: 0;
}

.says {
  margin: 2px 0 12px;
}

.late {
  color: var(--worse);
}

.ask {
  display: grid;
  grid-template-columns: minmax(0, 200px) 100px 150px minmax(0, 1fr);
  gap: 10px 14px;
  align-items: end;
  margin-bottom: 14px;
}

.asks {
  display: none;
}

.running strong {
  flex: none;
}

.running {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 48px;
  margin-bottom: 12px;
  padding: 6px 14px;
  color: var(--ink);
  background: var(--accent-soft);
  border-left: 3px solid var(--accent);
}

.find {
  display: grid;
  gap: 4px;
}

.find .small {
  font-weight: 600;
  color: var(--ink-2);
}

/* The line of time, with a mark where a part begins. */
.part {
  position: relative;
  padding-left: 22px;
  border-left: 1.5px solid var(--rule-2);
}

.part h2 {
  margin: 0;
  padding: 14px 0 4px;
  font-size: 16px;
}

.part h2::before {
  position: absolute;
  left: -5px;
  width: 9px;
  height: 9px;
  margin-top: 8px;
  content: '';
  background: var(--paper);
  border: 1.5px solid var(--rule-2);
  border-radius: 5px;
}

.part h2.late::before {
  background: var(--worse);
  border-color: var(--worse);
}

.now {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin: 0;
  padding: 6px 0 6px 22px;
  font-weight: 600;
  color: var(--accent);
  border-top: 2px solid var(--accent);
  border-left: 1.5px solid var(--rule-2);
}

.part + .now {
  margin-top: 0;
}

.fold {
  min-height: 44px;
  padding: 0;
}

@media (max-width: 760px) {
  .says {
    display: flex;
    align-items: center;
    justify-content: space-between;
    margin-bottom: 4px;
  }

  .asks {
    display: block;
    min-height: 44px;
  }

  .folded {
    display: none;
  }

  .ask {
    grid-template-columns: minmax(0, 1fr) 150px;
  }

  .find {
    grid-column: 1;
    grid-row: 2;
  }

  .until {
    grid-column: 2;
  }
}

/* Fingers, on a tablet too. */
@media (max-width: 760px), (pointer: coarse) {
  .ask :deep(:is(select, input)) {
    min-height: 44px;
  }
}
</style>
