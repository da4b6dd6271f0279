<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../api'
import TextField from '../fields/TextField.vue'
import PhotoField from '../photos/PhotoField.vue'
import AddPhotos from '../photos/AddPhotos.vue'
import { type SentFile, useSending } from '../photos/useSending'
import { useWaitingPictures } from '../photos/useWaitingPictures'
import { isWaiting } from '../offline/files'
import ChoiceAnswer from './ChoiceAnswer.vue'
import NumberAnswer from './NumberAnswer.vue'
import SignaturePad from './SignaturePad.vue'
import type { AnswerValue } from './conditions'

/** One question with its answer. */
const props = defineProps<{
  question: Schemas['AskedQuestion']
  place: number
  /** Where files lie that answer it. */
  files: string
  /** Where a picture lies that helps. */
  picture?: (file: string, small: boolean) => string | undefined
  wrong?: string
  outside: boolean
  missing: boolean
  readOnly: boolean
}>()
const answer = defineModel<AnswerValue>()
const isLarge = ref(false)
const kind = computed(() => props.question.asks.kind)

const number = computed({
  get: () => (answer.value?.kind === 'number' ? answer.value.value : undefined),
  set: (value) => (answer.value = value == null ? undefined : { kind: 'number', value }),
})
const text = computed({
  get: () => (answer.value?.kind === 'text' ? answer.value.text : ''),
  set: (text) => (answer.value = text ? { kind: 'text', text } : undefined),
})
const chosen = computed({
  get: () => (answer.value?.kind === 'choices' ? answer.value.values : []),
  set: (values) => (answer.value = values.length ? { kind: 'choices', values } : undefined),
})
const choices = computed(() => {
  const { asks, meter } = props.question
  if (asks.kind === 'pass_fail')
    return [
      { value: 'pass', name: 'Pass' },
      { value: 'fail', name: 'Fail' },
    ]
  const values = asks.kind === 'choice' ? asks.choices : (meter?.grades ?? [])
  return values.map((value) => ({ value, name: value }))
})
const several = computed(() => props.question.asks.kind === 'choice' && props.question.asks.several)

const atServer = (file: string) => `${props.files}/${file}?small=true`
const given = computed(() => (answer.value?.kind === 'files' ? answer.value.files : []))
const waiting = useWaitingPictures(() => given.value.map(({ file }) => file), atServer)
/** Files as they can be shown: what was chosen just now from memory, what waits from the browser, the rest from the server. */
const shown = new Map<string, string | undefined>()
const photos = computed<SentFile[]>({
  get: () =>
    given.value.map(({ file, name }) => ({
      file,
      name,
      media_type: 'image/jpeg',
      shown: shown.get(file) ?? (isWaiting(file) ? waiting.value[file] : atServer(file)),
    })),
  set: (sent) => {
    for (const one of sent) if (one.shown?.startsWith('blob:')) shown.set(one.file, one.shown)
    answer.value = sent.length
      ? { kind: 'files', files: sent.map(({ file, name }) => ({ file, name })) }
      : undefined
  },
})
const signing = useSending((sent) => (photos.value = [sent]))
function signed(file: File) {
  void signing.give([file] as unknown as FileList)
}
const meterIsMissing = computed(() => kind.value === 'reading' && !props.question.meter)
</script>

<template>
  <section class="question" :class="{ missing }" :data-test="`question-${question.key}`">
    <h2>
      <span class="place">{{ place }}</span> {{ question.text }}
      <span v-if="question.compulsory && !readOnly" class="small compulsory">
        {{ missing ? 'has to be answered' : '' }}
      </span>
    </h2>
    <p v-if="question.help" class="quiet small help">{{ question.help }}</p>
    <button
      v-if="question.picture && picture?.(question.picture, true)"
      type="button"
      class="picture no-print"
      :class="{ large: isLarge }"
      :aria-label="isLarge ? 'Show the picture small' : 'Show the picture large'"
      :aria-expanded="isLarge"
      data-test="help-picture"
      @click="isLarge = !isLarge"
    >
      <img :src="picture(question.picture, !isLarge)" :alt="question.help || 'How it should look'" />
    </button>
    <p v-if="question.meter" class="quiet small help">goes to the meter {{ question.meter.code }}</p>
    <p v-if="meterIsMissing" class="quiet">This asset has no such meter: nothing is asked here.</p>
    <NumberAnswer
      v-else-if="kind === 'number' || (kind === 'reading' && !question.meter?.grades.length)"
      v-model="number"
      :question="question"
      :wrong="wrong"
      :outside="outside"
      :read-only="readOnly"
    />
    <ChoiceAnswer
      v-else-if="choices.length"
      v-model="chosen"
      :label="question.text"
      :choices="choices"
      :several="several"
      :read-only="readOnly"
    />
    <template v-else-if="kind === 'text'">
      <p v-if="readOnly">{{ text || 'not answered' }}</p>
      <TextField v-else v-model="text" :label="question.text" unseen long :name="`answer-${question.key}`" />
    </template>
    <template v-else>
      <ul
        v-if="readOnly || (kind === 'signature' && photos.length && !signing.under.value.length)"
        class="files"
      >
        <li v-for="one in photos" :key="one.file"><img :src="one.shown" :alt="one.name" /></li>
        <li v-if="!photos.length" class="quiet">not answered</li>
      </ul>
      <PhotoField v-if="kind === 'photo' && !readOnly" v-model="photos" />
      <template v-if="kind === 'signature' && !readOnly">
        <SignaturePad @signed="signed" @cleared="photos = []" />
        <AddPhotos
          v-if="signing.under.value.some((one) => one.wrong)"
          :under="signing.under.value"
          label="Or a photo of it"
          @give="signing.give"
          @again="signing.again"
          @leave="signing.leave"
        />
      </template>
    </template>
    <p v-if="wrong && kind !== 'number' && kind !== 'reading'" class="wrong small" role="alert">
      {{ wrong }}
    </p>
  </section>
</template>

<style scoped>
.question {
  padding: 16px 0 18px;
  border-top: 1px solid var(--rule);
}

h2 {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
  margin: 0 0 8px;
  font-size: 18px;
}

.place {
  min-width: 20px;
  color: var(--ink-3);
  font-variant-numeric: tabular-nums;
}

.compulsory,
.wrong {
  color: var(--worse);
  font-family: var(--sans);
}

.help {
  margin: -4px 0 8px;
}

.picture {
  display: block;
  margin: 0 0 10px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: none;
  cursor: zoom-in;
}

.picture img {
  display: block;
  max-width: 100%;
  height: 132px;
}

.picture.large {
  cursor: zoom-out;
}

.picture.large img {
  height: auto;
}

.files {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}

.files img {
  display: block;
  max-width: 220px;
  max-height: 120px;
  border: 1px solid var(--rule);
}
</style>
