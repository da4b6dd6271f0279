<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import { localDate, plain } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { movePart } from './changes'
import { storeroom } from './queries/orders'

/** Parts that an order needs, and where they lie: set aside, taken, given back; and others that were not planned. */
const props = defineProps<{ work: WorkDetail }>()
type Row = WorkDetail['parts'][number]
const mayMove = computed(() => props.work.may_tick && !props.work.is_over)
const { mutate, error, problem, isPending } = useChange(movePart, () => {
  Object.keys(typed).forEach((item) => delete typed[item])
  isSearching.value = false
})
/** By item: how many are meant, where another number than the one offered was typed. */
const typed = reactive<Record<string, string>>({})
const stillNeeded = (row: Row) => Math.max(row.quantity - row.taken, 0)
const offered = (row: Row) => stillNeeded(row) || row.reserved || row.taken || 1
const meant = (row: Row) => Number(typed[row.item]?.replace(',', '.')) || offered(row)
/** The row that was sent last: what was wrong with it stands there. */
const last = ref('')
function send(item: string, part: string, action: Schemas['PartAction'], quantity: number) {
  last.value = item
  mutate({ number: props.work.number, item, body: { part, action, quantity } })
}
const said = (row: Row) =>
  [
    row.quantity ? `${plain(row.quantity)} needed` : 'not planned',
    row.reserved ? `${plain(row.reserved)} reserved` : '',
    row.taken ? `${plain(row.taken)} taken` : '',
  ]
    .filter(Boolean)
    .join(', ')

const isSearching = ref(false)
const text = ref('')
const letters = refDebounced(text, 150)
const found = useQuery(() => ({
  ...storeroom(letters.value, props.work.asset.code),
  enabled: isSearching.value,
  placeholderData: keepPreviousData,
}))
const others = computed(() =>
  (found.data.value ?? []).filter((part) => props.work.parts.every((row) => row.code !== part.code)),
)
</script>

<template>
  <section v-if="work.parts.length || mayMove" :class="{ 'no-print': !work.parts.length }" data-test="parts">
    <h2>
      Parts
      <button
        v-if="mayMove"
        class="act no-print"
        data-test="other-part"
        :aria-expanded="isSearching"
        @click="isSearching = !isSearching"
      >
        {{ isSearching ? 'None' : 'Take another part' }}
      </button>
    </h2>
    <ul v-if="work.parts.length" data-test="job-parts">
      <li v-for="row in work.parts" :key="row.item" :data-test="`part-${row.code}`">
        <span class="what">
          <strong>{{ row.item }}</strong>
          <span class="small">{{ said(row) }}</span>
          <span class="small quiet">
            <template v-if="row.on_hand == null">not kept in the storeroom: enter it as material</template>
            <template v-else>
              <strong v-if="row.place" class="place">{{ row.place }}</strong>
              {{ row.code }},
              {{
                row.free === row.on_hand
                  ? `${plain(row.on_hand)} in stock`
                  : `${plain(row.free)} free of ${plain(row.on_hand)}`
              }}
            </template>
          </span>
          <strong v-if="row.is_missing" class="late small">
            {{
              row.expected_on
                ? `there on ${localDate(row.expected_on)} if ordered now`
                : 'too few, and nobody knows for how long'
            }}
          </strong>
        </span>
        <span v-if="mayMove && row.code" class="do no-print">
          <input
            class="line"
            inputmode="decimal"
            :value="typed[row.item] ?? plain(offered(row))"
            :aria-label="`How many of ${row.item}`"
            @input="typed[row.item] = ($event.target as HTMLInputElement).value"
          />
          <ElButton
            v-if="row.free > 0"
            type="primary"
            :loading="isPending && last === row.item"
            data-test="take"
            @click="send(row.item, row.code, 'take', meant(row))"
            >Take</ElButton
          >
          <ElButton
            v-if="row.free > row.reserved && stillNeeded(row) > row.reserved"
            data-test="reserve"
            @click="send(row.item, row.code, 'reserve', meant(row))"
            >Reserve</ElButton
          >
          <ElButton
            v-if="row.reserved"
            data-test="release"
            @click="send(row.item, row.code, 'release', Math.min(meant(row), row.reserved))"
            >Free</ElButton
          >
          <ElButton
            v-if="row.taken"
            data-test="give-back"
            @click="send(row.item, row.code, 'give_back', Math.min(meant(row), row.taken))"
            >Give back</ElButton
          >
        </span>
        <span v-if="last === row.item && problem?.of('quantity')" class="late small" role="alert">
          {{ problem.of('quantity') }}
        </span>
      </li>
    </ul>
    <p v-else-if="!isSearching" class="quiet">None is planned, and none was taken.</p>
    <div v-if="isSearching" class="search">
      <input
        v-model="text"
        class="line"
        type="search"
        aria-label="Find a part"
        placeholder="Name or number"
        data-test="find-part"
      />
      <ul>
        <li v-for="part in others" :key="part.code">
          <span class="what">
            <strong>{{ part.item }}</strong>
            <span class="small quiet">
              <strong v-if="part.place" class="place">{{ part.place }}</strong>
              {{ part.code }}, {{ plain(part.on_hand) }} in stock
            </span>
          </span>
          <ElButton
            class="do"
            :disabled="part.on_hand <= 0"
            :data-test="`take-${part.code}`"
            @click="send(part.item, part.code, 'take', 1)"
            >Take one</ElButton
          >
        </li>
      </ul>
      <p v-if="found.data.value && !others.length" class="quiet">
        The storeroom has nothing so called. What was bought is entered as material.
      </p>
    </div>
    <ProblemNote :error="problem?.of('quantity') ? undefined : error" />
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

.what {
  display: grid;
  flex: 1 1 220px;
  min-width: 0;
}

.place {
  color: var(--ink);
}

.late {
  color: var(--worse);
}

.do {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}

.do :deep(.el-button + .el-button) {
  margin-left: 0;
}

.do input {
  width: 64px;
  text-align: right;
}

.search {
  margin-top: 10px;
}

.search > input {
  max-width: 340px;
}
</style>
