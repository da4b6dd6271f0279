<script setup lang="ts">
import { computed } from 'vue'
import { dateTime } from '../common/format'
import { isOwn, queue } from '../common/offline/queue'

/** What was done on an order and waits for the network. */
const props = defineProps<{ number: number }>()
const waiting = computed(() => queue.value.filter((one) => isOwn(one) && one.order === props.number))
</script>

<template>
  <ul v-if="waiting.length" class="no-print" data-test="waiting" aria-label="Waits to be sent">
    <li v-for="one in waiting" :key="one.command.key" class="small">
      <strong>{{ one.refused ? 'not done' : 'waits' }}</strong> {{ one.says }}
      <span class="quiet">{{ dateTime(one.at) }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 10px 0 0;
  padding: 6px 12px;
  list-style: none;
  border-left: 3px solid var(--rule-2);
}
</style>
