<script setup lang="ts">
import { computed } from 'vue'
import type { WorkDetail } from '../common/api'
import { dateTime, stateWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { useAddress } from '../common/useAddress'
import { takeBackReport, unlinkWork } from './changes'

/** Who else reported it, what it follows on from, and work that it has to do with. */
const props = defineProps<{ work: WorkDetail }>()
const followed = computed(() => [
  ...(props.work.follows ? [props.work.follows] : []),
  ...props.work.followed_by,
])
const { to } = useAddress()
const unlink = useChange(unlinkWork)
const takeBack = useChange(takeBackReport)
const error = computed(() => unlink.error.value ?? takeBack.error.value)
</script>

<template>
  <section v-if="work.reported_again.length" data-test="reported-again">
    <h2>
      Reported again
      <span class="quiet small">
        {{ work.reported_again.length === 1 ? 'once' : `${work.reported_again.length} times` }}
      </span>
    </h2>
    <ul>
      <li v-for="one in work.reported_again" :key="one.id">
        <span class="quiet">{{ dateTime(one.at) }}</span>
        <span class="words"
          >{{ one.words }} <span class="quiet">– {{ one.person }}</span></span
        >
        <button
          v-if="one.may_take_back"
          class="act no-print"
          @click="takeBack.mutate({ number: work.number, id: one.id })"
        >
          Take back
        </button>
      </li>
    </ul>
  </section>
  <section v-if="work.follows || work.followed_by.length" data-test="follows">
    <h2>What it follows, and what follows</h2>
    <ul>
      <li v-for="one in followed" :key="one.number">
        <span class="quiet">{{ one.number }} · {{ stateWords[one.state] }}</span>
        <span>
          <RouterLink :to="to(`/work/${one.number}`)">{{ one.title }}</RouterLink>
          <span class="quiet"> – {{ one.asset.name }}</span>
        </span>
        <span class="quiet small">{{
          one.number === work.follows?.number ? 'came before' : 'followed on'
        }}</span>
      </li>
    </ul>
  </section>
  <section v-if="work.linked.length" data-test="linked">
    <h2>Has to do with</h2>
    <ul>
      <li v-for="one in work.linked" :key="one.number">
        <span class="quiet">{{ one.number }} · {{ stateWords[one.state] }}</span>
        <span>
          <RouterLink :to="to(`/work/${one.number}`)">{{ one.title }}</RouterLink>
          <span class="quiet"> – {{ one.asset.name }}</span>
        </span>
        <button
          v-if="work.may_plan"
          class="act no-print"
          @click="unlink.mutate({ number: work.number, to: one.number })"
        >
          Unlink
        </button>
      </li>
    </ul>
  </section>
  <ProblemNote :error="error" />
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr) auto;
  gap: 10px;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.words {
  white-space: pre-line;
}

.act {
  padding: 0;
}
</style>
