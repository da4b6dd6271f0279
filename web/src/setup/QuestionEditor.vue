<script setup lang="ts">
import { computed } from 'vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import PhotoField from '../common/photos/PhotoField.vue'
import type { SentFile } from '../common/photos/useSending'
import JobSheetField from '../common/fields/JobSheetField.vue'
import { kindWords } from '../common/format'
import ConditionFields from './ConditionFields.vue'
import PlaceButtons from './PlaceButtons.vue'
import { type QuestionDraft, askWords, emptyRule, isNumber, whensOf } from './check'

/** One question of a check sheet. */
const props = defineProps<{
  place: number
  /** Those before it, by which it may be asked or not. */
  before: QuestionDraft[]
  isLast: boolean
  wrong: (field: string) => string | undefined
}>()
const emit = defineEmits<{ remove: []; move: [by: number] }>()
const question = defineModel<QuestionDraft>({ required: true })
/** One at the most: another takes its place. */
const pictures = computed<SentFile[]>({
  get: () =>
    question.value.picture
      ? [{ ...question.value.picture, name: 'the picture', media_type: 'image/jpeg' }]
      : [],
  set: (all) => {
    const last = all.at(-1)
    question.value.picture = last && { file: last.file, shown: last.shown }
  },
})
const at = (field: string) => props.wrong(`questions[${props.place}].${field}`)
const choicesOf = ({ kind, choices }: QuestionDraft) =>
  kind === 'pass_fail'
    ? ['pass', 'fail']
    : kind === 'choice'
      ? choices.split('\n').filter((line) => line.trim())
      : []
const asking = computed(() => props.before.filter(({ kind }) => whensOf(kind).length))
const asker = computed(() => props.before.find(({ key }) => key === question.value.only_if))
</script>

<template>
  <li
    :data-test="`question-${place}`"
    @keydown.alt.up.prevent="emit('move', -1)"
    @keydown.alt.down.prevent="emit('move', 1)"
  >
    <div class="head">
      <strong class="quiet">{{ place + 1 }}</strong>
      <TextField v-model="question.text" label="Question" name="question-text" :wrong="at('text')" />
      <ChoiceField v-model="question.kind" label="Asks for" name="question-kind">
        <option v-for="(word, kind) in askWords" :key="kind" :value="kind">{{ word }}</option>
      </ChoiceField>
      <PlaceButtons
        name="question"
        :place="place"
        :is-last="isLast"
        @move="emit('move', $event)"
        @remove="emit('remove')"
      />
    </div>
    <div class="fields">
      <TextField
        v-if="question.kind === 'reading'"
        v-model="question.meter"
        class="two"
        label="Meter"
        name="question-meter"
        hint="its code, or its name at the asset that is checked"
        :wrong="at('asks.meter')"
      />
      <TextField
        v-if="question.kind === 'number'"
        v-model="question.unit"
        label="Unit"
        name="question-unit"
      />
      <template v-if="isNumber(question.kind)">
        <NumberField
          v-model="question.low"
          label="Should be at least"
          name="question-low"
          :wrong="at('low')"
        />
        <NumberField v-model="question.high" label="and at most" name="question-high" :wrong="at('high')" />
      </template>
      <TextField
        v-if="question.kind === 'choice'"
        v-model="question.choices"
        class="two"
        label="Choices"
        long
        hint="one a line"
        name="question-choices"
        :wrong="at('asks.choices')"
      />
      <TextField v-model="question.help" class="two" label="What helps to answer it" name="question-help" />
      <PhotoField
        v-model="pictures"
        class="two"
        label="A picture that helps"
        :wrong="at('picture')"
        data-test="question-picture"
      />
      <div class="checks">
        <label
          ><input v-model="question.compulsory" type="checkbox" name="question-compulsory" /> Has to be
          answered</label
        >
        <label v-if="question.kind === 'choice'"
          ><input v-model="question.several" type="checkbox" /> Several can be chosen</label
        >
      </div>
    </div>
    <div v-if="asking.length || question.only_if" class="fields">
      <ChoiceField
        v-model="question.only_if"
        label="Asked"
        name="question-only-if"
        :wrong="at('only_if.question')"
      >
        <option value="">always</option>
        <option v-if="question.only_if && !asker" :value="question.only_if">by one further down</option>
        <option v-for="one in asking" :key="one.key" :value="one.key">by: {{ one.text || one.key }}</option>
      </ChoiceField>
      <ConditionFields
        v-if="asker"
        v-model="question.is"
        :kind="asker.kind"
        :choices="choicesOf(asker)"
        :wrong="at('only_if.is')"
      />
    </div>
    <div v-for="(rule, nth) in question.rules" :key="nth" class="rule" :data-test="`rule-${place}-${nth}`">
      <p class="small">
        <strong>Raises work</strong>
        <button type="button" class="act" @click="question.rules.splice(nth, 1)">Take away</button>
      </p>
      <ConditionFields
        :model-value="rule"
        :kind="question.kind"
        :choices="choicesOf(question)"
        :wrong="at(`rules[${nth}].is`)"
      />
      <div class="fields">
        <TextField
          v-model="rule.title"
          class="two"
          label="What is to be done"
          name="rule-title"
          hint="what was found, without it"
        />
        <ChoiceField v-model="rule.work_kind" label="Kind" name="rule-kind">
          <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
        </ChoiceField>
        <ChoiceField v-model="rule.risk_rank" label="Risk rank" name="rule-rank">
          <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
        </ChoiceField>
        <TextField v-model="rule.trade" label="Trade" name="rule-trade" />
        <TextField
          v-model="rule.crew"
          label="Crew"
          name="rule-crew"
          hint="the asset’s without it"
          :wrong="at(`rules[${nth}].crew`)"
        />
        <JobSheetField v-model="rule.job_sheet" :wrong="at(`rules[${nth}].job_sheet`)" />
      </div>
    </div>
    <button
      v-if="whensOf(question.kind).length"
      type="button"
      class="act"
      :data-test="`add-rule-${place}`"
      @click="question.rules.push(emptyRule(question.kind))"
    >
      An answer raises work
    </button>
  </li>
</template>

<style scoped>
li {
  padding: 12px 0 14px;
  border-bottom: 1px solid var(--rule);
}

.head {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) 190px auto;
  gap: 10px;
  align-items: end;
}

.head > strong {
  padding-bottom: 7px;
}

.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 10px 16px;
  align-items: start;
  margin: 10px 0 0 32px;
}

.fields :deep(.condition) {
  grid-column: span 3;
}

.two {
  grid-column: span 2;
}

.checks {
  display: grid;
  gap: 4px;
  align-self: center;
  grid-column: span 2;
  font-size: 14px;
}

.rule {
  margin: 12px 0 8px 32px;
  padding: 8px 14px 12px;
  border-left: 3px solid var(--accent);
  background: var(--paper-2);
}

.rule p {
  display: flex;
  justify-content: space-between;
  margin: 0 0 6px;
}

.rule .fields {
  margin-left: 0;
}

li > .act {
  margin: 8px 0 0 32px;
  padding: 0;
}

@media (max-width: 700px) {
  .head {
    grid-template-columns: 22px minmax(0, 1fr);
  }

  .fields,
  .rule,
  li > .act {
    margin-left: 0;
  }

  .fields {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
