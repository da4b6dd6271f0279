<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { asset, calendars as calendarsAsked } from '../common/queries/plant'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { answer } from '../common/api'
import { date, onTheMinute } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { assignCalendar, moveAsset, setEffect } from './changes'
import AssetField from '../common/fields/AssetField.vue'
import EffectInput from './EffectInput.vue'
import OutOfUse from './OutOfUse.vue'
import { type Effect, effectWords } from './effect'

const props = defineProps<{ code: string }>()
const { data } = useQuery(() => asset(props.code))
const calendars = useQuery(calendarsAsked())

const open = ref('')
const at = ref('')
const given = reactive({ parent: '', reason: '', calendar: '' })
const effect = ref<Effect>({ kind: 'no' })
function begin(what: string) {
  open.value = open.value === what ? '' : what
  at.value = onTheMinute(now.value)
  given.parent = data.value?.parent ?? ''
  given.reason = ''
  given.calendar = data.value?.calendars.at(-1)?.code ?? calendars.data.value?.[0]?.code ?? ''
  effect.value = data.value?.effects.at(-1)?.effect ?? { kind: 'no' }
}
const close = () => (open.value = '')

const move = useChange(moveAsset, close)
const moved = () => ({
  code: props.code,
  parent: given.parent.trim() || null,
  at: at.value,
  reason: given.reason,
})
const changeEffect = useChange(setEffect, close)
const assign = useChange(assignCalendar, close)

const version = ref(0)
const client = useQueryClient()
const picture = useMutation({
  mutationFn: async (file: File | undefined) => {
    const url = `/api/v1/assets/${props.code}/picture`
    const call = fetch(url, file ? { method: 'PUT', body: file } : { method: 'DELETE' })
    await answer(
      call.then(async (response) => ({ response, error: response.ok ? undefined : await response.json() })),
    )
  },
  onSuccess: () => {
    version.value += 1
    return client.invalidateQueries()
  },
})
const choose = (event: Event) => picture.mutate((event.target as HTMLInputElement).files?.[0])
const began = (from: string) => (Date.parse(from) < -6e13 ? 'always' : date(from))
</script>

<template>
  <div v-if="data" class="place">
    <section>
      <h2>
        Where it stands
        <button class="act" data-test="move-asset" @click="begin('move')">Move</button>
      </h2>
      <ol>
        <li v-for="place in [...data.placements].reverse()" :key="place.from" data-test="placement">
          <span class="at">{{ began(place.from) }} – {{ place.to ? date(place.to) : 'now' }}</span>
          <span>
            {{ place.parent ? place.parent.name : 'top of the tree' }}
            <span class="quiet">{{ place.parent?.code }} · {{ place.reason }}</span>
          </span>
        </li>
      </ol>
      <form v-if="open === 'move'" v-arrive class="inset" @submit.prevent="move.mutate(moved)">
        <AssetField
          v-model="given.parent"
          class="wide"
          :wrong="move.problem.value?.of('parent')"
          label="New parent"
        />
        <InstantField v-model="at" label="From" name="move-at" />
        <TextField v-model="given.reason" class="wide" label="Why" name="move-reason" />
        <ElButton type="primary" native-type="submit" :loading="move.isPending.value" data-test="save-move">
          Move
        </ElButton>
        <ProblemNote :error="move.error.value" />
        <p class="quiet small note">
          What happened before that moment stays with the place it happened at; what happens after it counts
          for the new one.
        </p>
      </form>
    </section>
    <OutOfUse :code="code" />
    <section>
      <h2>
        When it is down
        <button class="act" data-test="change-effect" @click="begin('effect')">Change</button>
      </h2>
      <ol>
        <li v-for="one in [...data.effects].reverse()" :key="one.from">
          <span class="at">{{ began(one.from) }} – {{ one.to ? date(one.to) : 'now' }}</span>
          <span>{{ effectWords(one.effect) }}</span>
        </li>
        <li v-if="!data.effects.length"><span class="at">always</span>{{ effectWords({ kind: 'no' }) }}</li>
      </ol>
      <form
        v-if="open === 'effect'"
        v-arrive
        class="inset"
        @submit.prevent="changeEffect.mutate({ code, effect, from: at })"
      >
        <EffectInput v-model="effect" />
        <InstantField v-model="at" label="From" name="effect-at" />
        <ElButton type="primary" native-type="submit" :loading="changeEffect.isPending.value">Save</ElButton>
        <ProblemNote :error="changeEffect.error.value" />
      </form>
    </section>
    <section>
      <h2>
        When it has to run
        <button class="act" :disabled="!calendars.data.value?.length" @click="begin('calendar')">
          Change
        </button>
      </h2>
      <ol>
        <li v-for="one in [...data.calendars].reverse()" :key="one.from">
          <span class="at">{{ began(one.from) }} – {{ one.to ? date(one.to) : 'now' }}</span>
          <span>{{ one.name }}</span>
        </li>
        <li v-if="!data.calendars.length"><span class="at">always</span>as what it belongs to</li>
      </ol>
      <form
        v-if="open === 'calendar'"
        v-arrive
        class="inset"
        @submit.prevent="assign.mutate({ code, calendar: given.calendar, from: at })"
      >
        <ChoiceField v-model="given.calendar" class="wide" label="Calendar" name="asset-calendar">
          <option v-for="one in calendars.data.value" :key="one.code" :value="one.code">
            {{ one.name }}
          </option>
        </ChoiceField>
        <InstantField v-model="at" label="From" name="calendar-at" />
        <ElButton type="primary" native-type="submit" :loading="assign.isPending.value">Save</ElButton>
        <ProblemNote :error="assign.error.value" />
      </form>
    </section>
    <section>
      <h2>Picture</h2>
      <img
        v-if="data.has_picture"
        :src="`/api/v1/assets/${code}/picture?v=${version}`"
        :alt="`Picture of ${data.name}`"
      />
      <input type="file" accept="image/*" name="picture" aria-label="Picture file" @change="choose" />
      <button v-if="data.has_picture" class="act" @click="picture.mutate(undefined)">Take it away</button>
      <ProblemNote :error="picture.error.value" />
    </section>
  </div>
</template>

<style scoped>
.place {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(360px, 1fr));
  gap: 16px 30px;
  margin: 16px 0 26px;
}

.place :deep(h2) {
  display: flex;
  align-items: baseline;
  gap: 14px;
  border-bottom: 1.5px solid var(--ink);
  padding-bottom: 3px;
}

.place :deep(ol) {
  margin: 0;
  padding: 0;
  list-style: none;
}

.place :deep(li) {
  display: grid;
  grid-template-columns: 172px minmax(0, 1fr);
  font-size: 14px;
  gap: 12px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}

.place :deep(.at) {
  color: var(--ink-2);
}

.place :deep(.note) {
  flex-basis: 100%;
  margin: 0;
}

img {
  display: block;
  max-width: 320px;
  max-height: 240px;
  margin: 8px 0;
}
</style>
