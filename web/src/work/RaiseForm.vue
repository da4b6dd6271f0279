<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../common/api'
import { count, kindWords } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import JobSheetField from '../common/fields/JobSheetField.vue'
import PhotoField from '../common/photos/PhotoField.vue'
import type { SentFile } from '../common/photos/useSending'
import AssetField from '../common/fields/AssetField.vue'
import { useChange } from '../common/change/useChange'
import AlreadyRaised from './AlreadyRaised.vue'
import { joinWork, raiseWork } from './changes'
import { workOrder } from './queries/orders'
import { draftFrom, emptyDraft, type RaiseFrom } from './raised'

const props = defineProps<{
  from?: RaiseFrom
  /** What is seen and how bad it is, and no more. */
  brief?: boolean
  /** Whoever raises it stays where they are. */
  stays?: boolean
}>()
const emit = defineEmits<{ close: [] }>()
const { scope, to } = useAddress()
const router = useRouter()
const follows = computed(() => (props.from && 'follow' in props.from ? props.from.follow : undefined))
const copied = computed(() => (props.from && 'copy' in props.from ? props.from.copy : undefined))
const origin = useQuery(() => {
  const number = follows.value ?? copied.value
  return { ...workOrder(number ?? 0), enabled: number !== undefined }
})
const given = ref(emptyDraft(scope.value))
// What is typed is not taken away when the order that it begins from changes.
let isBegun = false
watchEffect(() => {
  if (!props.from || !origin.data.value || isBegun) return
  isBegun = true
  given.value = draftFrom(origin.data.value, props.from)
})
const title = computed(() => {
  if (props.brief) return 'Say what you see'
  if (follows.value) return `Raise work that follows on from ${follows.value}`
  return copied.value ? `Raise a copy of ${copied.value}` : 'Raise work'
})
const linked = ref<number[]>([])
const photos = ref<SentFile[]>([])
async function open(number: number) {
  emit('close')
  if (!props.stays) await router.push(to(`/work/${number}`))
}
/** Without a network it waits, and has no number yet. */
const raise = useChange(raiseWork, (raised: Schemas['RaisedWork'] | undefined) =>
  raised ? open(raised.number) : emit('close'),
)
let joined = 0
const join = useChange(joinWork, () => open(joined))
const error = computed(() => raise.error.value ?? join.error.value)
const isPending = computed(() => raise.isPending.value || join.isPending.value)
const wrong = (field: string) => raise.problem.value?.of(field)

const raised = () => ({
  title: given.value.title,
  text: given.value.text,
  asset: given.value.asset.trim(),
  kind: given.value.kind,
  risk_rank: given.value.risk_rank,
  estimated_hours: given.value.hours ?? undefined,
  job_sheet: given.value.job_sheet || undefined,
  linked: linked.value,
  attachments: photos.value.map(({ file, name }) => ({ file, name })),
  follows: follows.value,
  also_on: given.value.also.map((asset) => asset.trim()).filter(Boolean),
})
/** What was typed goes to the order that is about the same. */
function joinTo(number: number) {
  joined = number
  raise.reset()
  const words = [given.value.title, given.value.text].map((text) => text.trim()).filter(Boolean)
  join.mutate({ number, words: words.join('\n') })
}
function send() {
  join.reset()
  raise.mutate(raised)
}
</script>

<template>
  <ElDialog :model-value="true" :title="title" width="min(620px, 96vw)" @close="emit('close')">
    <form id="raise" @submit.prevent="send">
      <p v-if="follows && origin.data.value" class="quiet small origin">
        {{ origin.data.value.title }} – {{ origin.data.value.asset.name }}
      </p>
      <ProblemNote :error="origin.error.value" />
      <AssetField v-model="given.asset" :wrong="wrong('asset')" />
      <div v-for="(other, place) in given.also" :key="place" class="also">
        <AssetField
          :model-value="other"
          label="And on"
          :wrong="wrong(`also_on[${place}]`)"
          :data-test="`also-${place}`"
          @update:model-value="given.also[place] = $event"
        />
        <button type="button" class="act" @click="given.also.splice(place, 1)">Leave out</button>
      </div>
      <p v-if="!brief" class="more">
        <button type="button" class="act" data-test="also" @click="given.also.push('')">
          The same on another asset
        </button>
        <span v-if="given.also.length" class="quiet small">each gets an order of its own</span>
      </p>
      <TextField
        v-model="given.title"
        :label="brief ? 'What do you see?' : 'What is to be done, or what you see'"
        name="work-title"
        :wrong="wrong('title') ?? join.problem.value?.of('words')"
      />
      <AlreadyRaised
        v-model:linked="linked"
        :asset="given.asset"
        :title="given.title"
        :busy="isPending"
        @join="joinTo"
      />
      <ChoiceField v-if="brief" v-model="given.risk_rank" label="How bad is it?" name="work-rank">
        <option v-for="(days, place) in installation.rank_windows" :key="place" :value="place + 1">
          {{ place + 1 }}: must be seen to within {{ count(days, 'day', 'days') }}
        </option>
      </ChoiceField>
      <div v-else class="row">
        <ChoiceField v-model="given.kind" label="Kind" name="work-kind">
          <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
        </ChoiceField>
        <ChoiceField v-model="given.risk_rank" label="Risk rank" name="work-rank">
          <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
        </ChoiceField>
        <NumberField v-model="given.hours" label="Hours, estimated" name="work-hours" />
      </div>
      <JobSheetField v-if="!brief" v-model="given.job_sheet" :wrong="wrong('job_sheet')" />
      <TextField v-model="given.text" label="What else to know" long name="work-text" />
      <PhotoField v-model="photos" :wrong="wrong('attachments')" />
      <p v-if="brief" class="quiet small origin">What becomes of it stands on its page, and in your work.</p>
      <ProblemNote :error="error" />
    </form>
    <template #footer>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton type="primary" native-type="submit" form="raise" :loading="isPending" data-test="raise">{{
        given.also.length ? `Raise ${given.also.length + 1} orders` : 'Raise work'
      }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
}

.origin,
.more {
  margin: 0;
}

.also {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: end;
}

.more {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.more .act {
  padding: 0;
}

.row {
  display: grid;
  grid-template-columns: 1fr 90px 130px;
  gap: 12px;
}

@media (max-width: 560px) {
  .row {
    grid-template-columns: 1fr 1fr;
  }

  .row > :first-child {
    grid-column: 1 / -1;
  }
}
</style>
