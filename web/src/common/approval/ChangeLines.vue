<script setup lang="ts">
import type { LadderChange } from '../api'

defineProps<{ changes: LadderChange[] }>()

/** A field as people call it. */
const words = (field: string) => field.replace('response.', '').replaceAll('_', ' ')
</script>

<template>
  <ul v-if="changes.length">
    <li v-for="change in changes" :key="`${change.subject} ${change.field}`" data-test="change">
      <strong>{{ change.subject }}</strong>{{ ' ' }}
      <template v-if="change.field"> {{ words(change.field) }}: </template>
      <template v-else-if="!change.from"> new: </template>
      <template v-else> gone: </template>
      <s v-if="change.from">{{ change.from }}</s>
      <template v-if="change.from && change.to"> → </template>
      <span v-if="change.to">{{ change.to }}</span>
      <span v-else-if="change.field" class="quiet"> taken away</span>
    </li>
  </ul>
  <p v-else class="quiet">Nothing differs.</p>
</template>

<style scoped>
ul {
  margin: 3px 0;
  padding: 0;
  list-style: none;
}

li {
  overflow-wrap: anywhere;
}

s {
  color: var(--ink-2);
}

p {
  margin: 3px 0;
}
</style>
