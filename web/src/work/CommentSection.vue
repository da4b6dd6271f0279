<script setup lang="ts">
import { ref } from 'vue'
import type { WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import { dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { comment, takeCommentAway } from './changes'

/** What people say about an order, some of it only to those who do or plan work. */
const props = defineProps<{ work: WorkDetail }>()
const text = ref('')
const forColleagues = ref(false)
/** What is typed while that is on its way is not it. */
let sent = ''
const say = useChange(comment, () => {
  if (text.value === sent) text.value = ''
})
const takeAway = useChange(takeCommentAway)
function send() {
  sent = text.value
  say.mutate({ number: props.work.number, body: { text: sent, for_colleagues: forColleagues.value } })
}
</script>

<template>
  <section
    v-if="work.comments.length || work.may_comment"
    :class="{ 'no-print': !work.comments.length }"
    data-test="comments"
  >
    <h2>
      Comments <span v-if="work.comments.length" class="quiet small">{{ work.comments.length }}</span>
    </h2>
    <ul v-if="work.comments.length">
      <li v-for="one in work.comments" :key="one.id" :class="{ inner: one.for_colleagues }">
        <p class="small quiet">
          {{ one.by }}, {{ dateTime(one.at)
          }}<strong v-if="one.for_colleagues" data-test="for-colleagues"> · for colleagues only</strong>
          <button
            v-if="one.is_own"
            class="act no-print"
            @click="takeAway.mutate({ number: work.number, id: one.id })"
          >
            Take away
          </button>
        </p>
        <p class="text">{{ one.text }}</p>
      </li>
    </ul>
    <form v-if="work.may_comment" class="no-print" @submit.prevent="send">
      <label>
        <span class="small">Say something</span>
        <textarea v-model="text" class="line" name="comment" rows="2" />
      </label>
      <p v-if="say.problem.value?.of('text')" class="late small" role="alert">
        {{ say.problem.value.of('text') }}
      </p>
      <div class="do">
        <label v-if="work.is_colleague">
          <input v-model="forColleagues" type="checkbox" name="for-colleagues" /> only for colleagues
        </label>
        <ElButton native-type="submit" :disabled="!text.trim()" :loading="say.isPending.value" data-test="say"
          >Say it</ElButton
        >
      </div>
      <ProblemNote :error="say.error.value ?? takeAway.error.value" />
    </form>
  </section>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}

.inner {
  padding-left: 10px;
  border-left: 3px solid var(--rule-2);
}

p {
  margin: 0;
}

.small {
  display: flex;
  flex-wrap: wrap;
  gap: 0 6px;
  align-items: baseline;
}

.small .act {
  margin-left: auto;
}

.text {
  max-width: 70ch;
  white-space: pre-line;
}

.late {
  color: var(--worse);
}

form {
  display: grid;
  gap: 6px;
  max-width: 560px;
  margin-top: 10px;
}

.do {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  justify-content: space-between;
}

.do label {
  display: flex;
  gap: 8px;
  align-items: center;
}

input[type='checkbox'] {
  width: 18px;
  height: 18px;
}
</style>
