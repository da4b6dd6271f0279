<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import { duration, whole } from '../common/format'

type Group = Schemas['BacklogGroup']

/** Open work by the values of one cut. A press holds everything else to that value. */
const props = defineProps<{
  name: string
  cut: string
  groups: Group[]
  chosen: string[]
  /** What a value's limit is, in words. */
  limit?: (value: string) => string | undefined
}>()
const emit = defineEmits<{ toggle: [value: string] }>()
const most = computed(() => Math.max(1, ...props.groups.map((group) => group.count)))
</script>

<template>
  <section :data-test="`cut-${cut}`">
    <h2 class="ruled">{{ name }}</h2>
    <table>
      <thead class="small quiet">
        <tr>
          <th><span class="unseen">Value</span></th>
          <th class="num">orders</th>
          <th class="num">to do</th>
          <th class="num" title="past their window">late</th>
          <th class="num" title="over their state's limit">over limit</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="group in groups" :key="group.value" :class="{ on: chosen.includes(group.value) }">
          <td class="what">
            <button
              class="plain"
              :aria-pressed="chosen.includes(group.value)"
              :data-test="`cut-${cut}-${group.value}`"
              @click="emit('toggle', group.value)"
            >
              {{ group.name || 'none' }}
              <span v-if="limit?.(group.value)" class="small quiet">{{ limit(group.value) }}</span>
            </button>
            <span class="bar" :style="{ width: `${(100 * group.count) / most}%` }">
              <span class="late" :style="{ width: `${(100 * group.past_window) / group.count}%` }" />
            </span>
          </td>
          <td class="num">{{ whole(group.count) }}</td>
          <td class="num">{{ duration(group.ms) }}</td>
          <td class="num" :class="{ worse: group.past_window }">{{ group.past_window || '' }}</td>
          <td class="num" :class="{ worse: group.over_limit }">{{ group.over_limit || '' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="!groups.length" class="quiet small">Nothing is open.</p>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}

th {
  font-weight: 400;
  padding-left: 10px;
}

td {
  padding: 4px 0 4px 10px;
  border-bottom: 1px solid var(--rule);
  vertical-align: baseline;
  white-space: nowrap;
}

.num {
  text-align: right;
}

.what {
  width: 99%;
  padding-left: 0;
  white-space: normal;
}

.what .plain {
  text-align: left;
}

.on .plain {
  font-weight: 600;
  color: var(--accent);
}

.bar {
  display: block;
  height: 5px;
  min-width: 2px;
  margin-top: 2px;
  background: var(--rule-2);
}

.late {
  display: block;
  height: 100%;
  background: var(--worse);
}

.worse {
  color: var(--worse);
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>
