<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import CheckQuestion from '../common/checks/CheckQuestion.vue'
import { type AnswerValue, type Answers, lookedUp } from '../common/checks/conditions'
import type { Schemas } from '../common/api'
import { checkTried } from './queries/checks'

/** A check sheet as it would be filled in: nothing of it is kept. */
const props = defineProps<{
  sheet: Schemas['CheckSheet']
  /** Where a picture lies that helps. */
  picture: (file: string) => string | undefined
}>()
const answers = ref<Answers>({})
const found = computed(() => lookedUp(props.sheet.questions, answers.value))
const asked = computed(() =>
  props.sheet.questions
    .filter(({ key }) => found.value.asked.includes(key))
    .map((question) => ({ ...question, earlier: [], meter: meterOf(question) })),
)
/** Some meter, as long as nobody says of which asset. */
function meterOf({ asks }: Schemas['Question']): Schemas['AskedMeter'] | null {
  if (asks.kind !== 'reading') return null
  return { code: asks.meter, name: asks.meter, unit: '', grades: [] }
}
const isTaken = (question: Schemas['Question']) => ['photo', 'signature'].includes(question.asks.kind)
function give(key: string, value: AnswerValue | undefined) {
  answers.value = { ...answers.value, [key]: value }
}
const given = computed(() =>
  Object.entries(answers.value).flatMap(([question, value]) => (value ? [{ question, value }] : [])),
)
const tried = useQuery(() => ({
  ...checkTried({ sheet: props.sheet, answers: given.value }),
  placeholderData: keepPreviousData,
  retry: false,
}))
</script>

<template>
  <aside data-test="trial">
    <h2>Try it <span class="quiet small">nothing of this is kept</span></h2>
    <template v-for="(question, place) in asked" :key="question.key">
      <p v-if="isTaken(question)" class="quiet taken">
        {{ place + 1 }} {{ question.text }}: a {{ question.asks.kind }}
      </p>
      <CheckQuestion
        v-else
        :model-value="answers[question.key]"
        :question="question"
        :place="place + 1"
        files=""
        :picture="picture"
        :outside="found.outside.includes(question.key)"
        :missing="false"
        :read-only="false"
        @update:model-value="give(question.key, $event)"
      />
    </template>
    <div class="would" aria-live="polite">
      <p v-if="tried.error.value" class="quiet">
        Once nothing is missing above, what finishing it would raise stands here.
      </p>
      <template v-else-if="tried.data.value?.found.length">
        <p><strong>Finishing it would raise</strong></p>
        <ul>
          <li v-for="one in tried.data.value.found" :key="`${one.question}-${one.rule}`">
            {{ one.title }} <span class="quiet small">{{ one.says }}</span>
          </li>
        </ul>
      </template>
      <p v-else-if="tried.data.value" class="quiet">Finishing it would raise nothing.</p>
    </div>
  </aside>
</template>

<style scoped>
aside {
  position: sticky;
  top: 12px;
  max-height: calc(100vh - 90px);
  overflow-y: auto;
  padding: 0 4px 0 24px;
  border-left: 1px solid var(--rule);
}

@media (max-width: 1000px) {
  aside {
    position: static;
    max-height: none;
  }
}

h2 {
  margin: 22px 0 6px;
}

.small {
  font-family: var(--sans);
  font-weight: 400;
}

.taken {
  margin: 0;
  padding: 14px 0;
  border-top: 1px solid var(--rule);
}

.would {
  padding: 12px 0;
  border-top: 1.5px solid var(--ink);
}

ul {
  margin: 0;
  padding-left: 18px;
}
</style>
