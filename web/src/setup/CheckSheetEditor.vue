<script setup lang="ts">
import { X } from '@lucide/vue'
import { computed, nextTick, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../common/api'
import { useChange } from '../common/change/useChange'
import NewerNote from '../common/draft/NewerNote.vue'
import { useDraft } from '../common/draft/useDraft'
import ChoiceField from '../common/fields/ChoiceField.vue'
import TextField from '../common/fields/TextField.vue'
import { count, dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import CheckTrial from './CheckTrial.vue'
import QuestionEditor from './QuestionEditor.vue'
import { saveCheckSheet } from './changes'
import { type Draft, bodyOf, draftOf, emptyDraft, emptyQuestion, freeKey } from './check'

/** One check sheet, or a new one, with a trial run beside it. */
const props = defineProps<{ view?: Schemas['CheckSheetView'] }>()
const router = useRouter()
const { to } = useAddress()

const code = ref(props.view?.code ?? '')
const started = reactive(emptyDraft())
const kept = useDraft<Schemas['CheckSheetView'], Draft>({
  theirs: () => props.view,
  of: (view) => view.code,
  version: (view) => view.change,
  draftOf,
  same: (mine, view) => JSON.stringify(mine) === JSON.stringify(draftOf(view)),
  name: () => `the check sheet ${code.value}`,
})
const draft = computed(() => (props.view ? kept.draft.value : started))
const body = computed(() => bodyOf(draft.value))

const save = useChange(saveCheckSheet, async () => {
  if (!props.view) await router.push(to(`/setup/check-sheets/${code.value.trim()}`))
})
const wrong = (field: string) => save.problem.value?.of(field)
const send = () =>
  save.mutate({ code: code.value.trim(), body: body.value }, props.view ? kept.basedOn() : undefined)
function takeBack() {
  save.reset()
  kept.takeTheirs()
}
const add = () => draft.value.questions.push(emptyQuestion(freeKey(draft.value.questions)))
/** The moved question keeps the focus. */
async function move(place: number, by: number) {
  const { questions } = draft.value
  const [moved] = questions.splice(place, 1)
  if (moved) questions.splice(Math.max(place + by, 0), 0, moved)
  await nextTick()
  document.querySelector<HTMLElement>(`[data-test=question-${place + by}] input`)?.focus()
}
const dragged = ref<number>()
function drop(place: number) {
  if (dragged.value !== undefined && dragged.value !== place) void move(dragged.value, place - dragged.value)
  dragged.value = undefined
}
</script>

<template>
  <form class="sheet" @submit.prevent="send">
    <RouterLink
      :to="to('/setup/check-sheets')"
      class="close"
      aria-label="Close"
      title="Close ( Esc )"
      data-close
    >
      <X :size="18" />
    </RouterLink>
    <p class="kicker">check sheet</p>
    <h1>{{ view ? view.sheet.title : 'New check sheet' }}</h1>
    <p v-if="view" class="quiet">
      {{ view.code }}, version {{ view.version }} by {{ view.by }} on {{ dateTime(view.at) }}; filled in
      {{ count(view.used, 'time', 'times') }}. What was filled in keeps its version.
    </p>
    <div class="fields">
      <TextField v-if="!view" v-model="code" label="Code" name="check-code" :wrong="wrong('code')" />
      <TextField
        v-model="draft.title"
        class="two"
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
        <button type="button" class="act" data-test="add-question" @click="add">Add a question</button>
        <span v-if="wrong('questions')" class="wrong">{{ wrong('questions') }}</span>
      </div>
      <CheckTrial :sheet="body" />
    </div>
    <NewerNote
      v-if="view && kept.newer.value"
      :words="`version ${kept.newer.value.version}, by ${kept.newer.value.by}`"
      @theirs="takeBack"
      @mine="kept.keepMine()"
    />
    <p class="end">
      <ElButton type="primary" native-type="submit" :loading="save.isPending.value" data-test="save-check">
        {{ view ? 'Save as a new version' : 'Add check sheet' }}
      </ElButton>
      <button v-if="view && kept.changed.value" type="button" class="act" @click="takeBack">Take back</button>
    </p>
    <ProblemNote :error="save.error.value" />
  </form>
</template>

<style scoped>
.sheet {
  position: relative;
}

.close {
  position: absolute;
  top: 0;
  right: 0;
  color: var(--ink);
}

.kicker {
  margin: 0 0 2px;
  font-size: 13px;
  font-weight: 600;
  color: var(--accent);
}

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

.wrong {
  color: var(--worse);
}

.end {
  display: flex;
  gap: 14px;
  align-items: center;
}

@media (max-width: 1000px) {
  .fields,
  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .two {
    grid-column: auto;
  }
}
</style>
