<script setup lang="ts">
import type { WorkDetail, WorkState } from '../common/api'
import { dateTime, stateWords } from '../common/format'

defineProps<{ work: WorkDetail }>()
const word = (state: string) => stateWords[state as WorkState] ?? state
</script>

<template>
  <section>
    <h2>History</h2>
    <ol>
      <li v-for="(event, index) in work.history" :key="index">
        <span class="when">{{ dateTime(event.at) }}</span>
        <span>
          <strong>{{ event.to_state ? word(event.to_state) : event.action }}</strong>
          by {{ event.person }}<template v-if="event.note">: {{ event.note }}</template>
        </span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr);
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.when {
  color: var(--ink-2);
}
</style>
