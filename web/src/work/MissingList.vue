<script setup lang="ts">
import type { WorkDetail } from '../common/api'

/** What is missing before an order can be closed; each leads to where it is given. */
defineProps<{ work: WorkDetail }>()
const places: Record<string, string> = {
  'failure.problem': 'failure',
  downtime: 'downtime-of-work',
  checks: 'checks',
  visits: 'round',
}
const show = (field: string) =>
  document.querySelector(`[data-test="${places[field]}"]`)?.scrollIntoView({ block: 'start' })
</script>

<template>
  <div v-if="work.missing.length" class="missing no-print" data-test="missing">
    <strong>Before it can be closed</strong>
    <ul>
      <li v-for="one in work.missing" :key="one.field">
        <button class="act" @click="show(one.field)">{{ one.text }}</button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.missing {
  margin: 12px 0;
  padding: 8px 12px;
  background: var(--paper-2);
  border-left: 3px solid var(--alert);
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.act {
  text-align: left;
}
</style>
