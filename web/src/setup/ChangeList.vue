<script setup lang="ts">
import { dateTime } from '../common/format'
import type { ChangeRow } from './kinds'

defineProps<{
  changes: ChangeRow[]
  /** Say of what: the rows are of many things. */
  named?: boolean
}>()
</script>

<template>
  <ol data-test="changes">
    <li v-for="(change, index) in changes" :key="index">
      <span class="at">{{ dateTime(change.at) }}</span>
      <span>
        <strong v-if="named">{{ change.kind }} {{ change.code }}</strong>
        {{ change.action }} <span class="quiet">by {{ change.person }}</span
        ><template v-if="change.reason">: {{ change.reason }}</template>
        <span v-for="field in change.changes" :key="field.field" class="field">
          {{ field.field }}: <s v-if="field.from">{{ field.from }}</s><template v-else>empty</template> →
          {{ field.to || 'empty' }}
        </span>
      </span>
    </li>
  </ol>
</template>

<style scoped>
ol {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 12px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  font-size: 14px;
}

.at {
  color: var(--ink-2);
}

.field {
  display: block;
  overflow-wrap: anywhere;
}

s {
  color: var(--ink-2);
}
</style>
