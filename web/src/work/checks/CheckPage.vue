<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref } from 'vue'
import { Problem } from '../../common/api'
import { useChange } from '../../common/change/useChange'
import { count, dateTime, stateWords } from '../../common/format'
import ProblemNote from '../../common/ProblemNote.vue'
import { useAddress } from '../../common/useAddress'
import { finishCheck } from '../changes'
import ThumbBar from '../ThumbBar.vue'
import { check } from '../queries/orders'
import CheckQuestion from '../../common/checks/CheckQuestion.vue'
import { pictureAt } from '../../common/checks/pictures'
import { bodyOf, useAnswers } from './useAnswers'

/** A check sheet of an order: filled in, or as it was. */
const props = defineProps<{ number: string; id: string }>()
const { to, read, change } = useAddress()
const { data, error } = useQuery(() => check(Number(props.number), Number(props.id)))
const { answers, found, give, unsent, settled, error: refused, isSending } = useAnswers(() => data.value)
const finish = useChange(finishCheck, () => settled(unsent.value))

const asked = computed(() => {
  const keys = found.value.asked
  return (data.value?.questions ?? []).filter((question) => keys.includes(question.key))
})
const answered = computed(() => asked.value.filter((question) => answers.value[question.key]).length)
/** One at a time: the place of the question that is shown. */
const isStepwise = computed(() => read('step') !== '')
const at = computed(() => Math.min(Math.max(Number(read('step')) - 1, 0), asked.value.length - 1))
const shown = computed(() => (isStepwise.value ? asked.value.slice(at.value, at.value + 1) : asked.value))
const files = computed(() => `/api/v1/work-orders/${props.number}/checks/${props.id}/files`)

const isTried = ref(false)
const wrong = (key: string) => {
  const problem = finish.problem.value ?? (refused.value instanceof Problem ? refused.value : undefined)
  return problem?.of(`answers.${key}`)
}
const misses = (key: string) => isTried.value && found.value.missing.includes(key)
async function send() {
  isTried.value = true
  const first = found.value.missing[0]
  if (!first) {
    finish.mutate({ number: Number(props.number), id: Number(props.id), body: bodyOf(unsent.value) })
    return
  }
  if (isStepwise.value) change({ step: String(asked.value.findIndex(({ key }) => key === first) + 1) })
  await nextTick()
  document.querySelector(`[data-test=question-${first}]`)?.scrollIntoView({ block: 'center' })
}
const isOffline = computed(() => refused.value instanceof Problem && refused.value.status === 0)
const standing = computed(() => {
  if (isOffline.value) return 'No network: your answers are kept here and go out later'
  if (isSending.value || Object.keys(unsent.value).length) return 'Keeping …'
  return data.value?.begun_at ? 'Kept' : ''
})
</script>

<template>
  <article class="check">
    <ProblemNote :error="data ? undefined : error" />
    <template v-if="data">
      <p class="crumb small">
        <RouterLink :to="to(`/work/${number}`)">{{ data.work_title }}</RouterLink> · {{ data.asset.name }}
      </p>
      <h1>{{ data.title }}</h1>
      <p v-if="data.text" class="quiet">{{ data.text }}</p>
      <p v-if="data.finished_at" class="done" data-test="finished">
        Finished by {{ data.answered_by }}, {{ dateTime(data.finished_at) }}
        <RouterLink :to="to(`/shift/${number}`)" class="press no-print" data-test="back-to-order"
          >On with the job</RouterLink
        >
      </p>
      <p v-else-if="data.not_yet" class="late" data-test="not-yet">Not now: {{ data.not_yet }}.</p>
      <ul v-if="data.raised.length" class="raised" data-test="raised">
        <li v-for="work in data.raised" :key="work.number">
          Raised: <RouterLink :to="to(`/work/${work.number}`)">{{ work.title }}</RouterLink>
          <span class="quiet small"> {{ work.number }}, {{ stateWords[work.state] }}</span>
        </li>
      </ul>
      <p v-if="data.may_fill_in" class="small how no-print">
        <button
          v-if="asked.length > 1"
          class="act"
          data-test="stepwise"
          @click="change({ step: isStepwise ? '' : '1' })"
        >
          {{ isStepwise ? 'All at once' : 'One at a time' }}
        </button>
        <RouterLink :to="to(`/shift/${number}`)" class="act" data-test="pause"
          >{{ data.begun_at || answered ? 'Pause' : 'Not now' }}: back to the job</RouterLink
        >
      </p>
      <CheckQuestion
        v-for="question in shown"
        :key="question.key"
        :model-value="answers[question.key]"
        :question="question"
        :place="asked.indexOf(question) + 1"
        :files="files"
        :picture="pictureAt(data.sheet)"
        :wrong="wrong(question.key)"
        :outside="found.outside.includes(question.key)"
        :missing="misses(question.key)"
        :read-only="!data.may_fill_in"
        @update:model-value="give(question.key, $event)"
      />
      <ThumbBar v-if="data.may_fill_in">
        <template #standing>
          <span class="small">{{ answered }} of {{ count(asked.length, 'question', 'questions') }}</span>
          <span class="small" :class="isOffline ? 'late' : 'quiet'" data-test="standing">{{ standing }}</span>
        </template>
        <template v-if="isStepwise">
          <ElButton :disabled="at === 0" @click="change({ step: String(at) })">Before</ElButton>
          <ElButton
            v-if="at < asked.length - 1"
            type="primary"
            data-test="next"
            @click="change({ step: String(at + 2) })"
            >Next</ElButton
          >
        </template>
        <ElButton
          v-if="!isStepwise || at === asked.length - 1"
          type="primary"
          :loading="finish.isPending.value"
          data-test="finish-check"
          @click="send"
          >Finish</ElButton
        >
      </ThumbBar>
      <ProblemNote :error="finish.error.value ?? (isOffline ? undefined : refused)" />
    </template>
  </article>
</template>

<style scoped>
.check {
  max-width: 640px;
  margin: 0 auto;
  padding-bottom: 90px;
}

.crumb {
  margin: 0 0 4px;
}

h1 {
  margin: 0 0 6px;
}

.done {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  justify-content: space-between;
  font-weight: 600;
}

.late {
  color: var(--worse);
  font-weight: 600;
}

.raised {
  margin: 0 0 10px;
  padding: 8px 12px;
  list-style: none;
  border-left: 3px solid var(--accent);
  background: var(--paper-2);
}

.how {
  display: flex;
  gap: 24px;
  margin: 0 0 6px;
}

.how .act {
  display: flex;
  align-items: center;
  min-height: 44px;
  padding: 0;
}
</style>
