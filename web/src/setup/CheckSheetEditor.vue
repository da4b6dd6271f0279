<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import TextField from '../common/fields/TextField.vue'
import { count, dateTime } from '../common/format'
import CheckTrial from './CheckTrial.vue'
import QuestionEditor from './QuestionEditor.vue'
import { saveCheckSheet } from './changes'
import { bodyOf, draftOf, emptyDraft, emptyQuestion, freeKey, questionDraftOf } from './check'
import QuestionLibrary from './QuestionLibrary.vue'
import SheetFrame from './SheetFrame.vue'
import { usePlaces } from './usePlaces'
import { useSheet } from './useSheet'

/** One check sheet, or a new one, with a trial run beside it. */
const props = defineProps<{ view?: Schemas['CheckSheetView'] }>()
const { code, draft, body, wrong, frame } = useSheet({
  name: 'check sheet',
  path: '/setup/check-sheets',
  view: () => props.view,
  empty: emptyDraft,
  draftOf,
  bodyOf,
  save: saveCheckSheet,
})
const pictureOf = (file: string) =>
  draft.value.questions.find(({ picture }) => picture?.file === file)?.picture?.shown
const isChoosing = ref(false)
/** What another sheet asks is asked here, too. */
function take({ code: of, question }: Schemas['LibraryQuestion']) {
  const begun = draft.value.questions.filter(({ text, rules }) => text.trim() || rules.length)
  draft.value.questions = [...begun, { ...questionDraftOf(of, question), key: freeKey(begun) }]
}
const add = () => draft.value.questions.push(emptyQuestion(freeKey(draft.value.questions)))
const { move, dragged, drop } = usePlaces(
  () => draft.value.questions,
  (place) => `[data-test=question-${place}]`,
)
</script>

<template>
  <SheetFrame v-bind="frame" :title="view ? view.sheet.title : 'New check sheet'">
    <p v-if="view" class="quiet">
      {{ view.code }}, version {{ view.version }} by {{ view.by }} on {{ dateTime(view.at) }}; filled in
      {{ count(view.used, 'time', 'times') }}. What was filled in keeps its version.
    </p>
    <div class="fields">
      <TextField v-if="!view" v-model="code" label="Code" name="check-code" :wrong="wrong('code')" />
      <TextField
        v-model="draft.title"
        :class="view ? 'three' : 'two'"
        label="What is checked"
        name="check-title"
        :wrong="wrong('title')"
      />
      <ChoiceField
        v-model="draft.status"
        label="Status"
        name="check-status"
        hint="only what is active is taken"
      >
        <option value="draft">draft</option>
        <option value="active">active</option>
        <option value="retired">retired</option>
      </ChoiceField>
      <TextField
        v-model="draft.class"
        label="Meant for the class"
        name="check-class"
        hint="its code"
        :wrong="wrong('class')"
      />
      <TextField
        v-model="draft.assets"
        class="three"
        label="and for the assets"
        name="check-assets"
        hint="codes"
        :wrong="wrong('assets[0]')"
      />
      <TextField v-model="draft.text" class="all" label="What to know before" long name="check-text" />
    </div>
    <div class="both">
      <div>
        <h2>Questions</h2>
        <ol>
          <QuestionEditor
            v-for="(question, place) in draft.questions"
            :key="question.key"
            :model-value="question"
            :place="place"
            :before="draft.questions.slice(0, place)"
            :is-last="place === draft.questions.length - 1"
            :wrong="wrong"
            draggable="true"
            @dragstart="dragged = place"
            @dragover.prevent
            @drop.prevent="drop(place)"
            @move="move(place, $event)"
            @remove="draft.questions.splice(place, 1)"
          />
        </ol>
        <p class="more">
          <button type="button" class="act" data-test="add-question" @click="add">Add a question</button>
          <button type="button" class="act" data-test="question-library" @click="isChoosing = true">
            Take one that is asked elsewhere
          </button>
        </p>
        <QuestionLibrary v-if="isChoosing" @take="take" @close="isChoosing = false" />
        <span v-if="wrong('questions')" class="wrong">{{ wrong('questions') }}</span>
      </div>
      <CheckTrial :sheet="body" :picture="pictureOf" />
    </div>
  </SheetFrame>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
}

.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px 16px;
  align-items: start;
  max-width: 940px;
  margin-top: 14px;
}

.two {
  grid-column: span 2;
}

.three {
  grid-column: span 3;
}

.all {
  grid-column: 1 / -1;
}

.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(280px, 360px);
  gap: 28px;
  align-items: start;
}

ol {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}

.more {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
  margin: 0;
}

.wrong {
  color: var(--worse);
}

@media (max-width: 1000px) {
  .fields,
  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .two,
  .three {
    grid-column: auto;
  }
}
</style>
