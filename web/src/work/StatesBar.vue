<script setup lang="ts">
import { computed } from 'vue'
import type { WorkDetail } from '../common/api'
import { lasting, stateWords } from '../common/format'

/** How long the work stood in each state, one beside the other, as wide as it lasted. */
const props = defineProps<{ work: WorkDetail }>()
const all = computed(() => props.work.time_in_states.reduce((sum, one) => sum + one.ms, 0))
const parts = computed(() =>
  props.work.time_in_states.map((one) => ({ ...one, share: all.value ? (100 * one.ms) / all.value : 0 })),
)
</script>

<template>
  <div v-if="all" class="states">
    <div class="bar" aria-hidden="true">
      <span
        v-for="one in parts"
        :key="one.state"
        :class="[one.state, { now: one.is_now }]"
        :style="{ flexGrow: one.share }"
      />
    </div>
    <p class="small" data-test="time-in-states">
      <span v-for="one in parts" :key="one.state" :class="one.is_now ? 'here' : 'quiet'">
        <i :class="one.state" aria-hidden="true" />{{ stateWords[one.state] }} {{ lasting(one.ms) }}
      </span>
      <span class="quiet">in all {{ lasting(all) }}</span>
    </p>
  </div>
</template>

<style scoped>
.states {
  margin: 12px 0 0;
}

.bar {
  display: flex;
  gap: 1px;
  height: 8px;
}

.bar span {
  min-width: 2px;
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 4px 0 0;
}

i {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 5px;
}

.here {
  font-weight: 600;
}

/* What stands still is pale, what waits is hatched, what is worked on is full. */
.raised,
.planning {
  background: var(--rule-2);
}

.waiting {
  background: repeating-linear-gradient(135deg, var(--worse) 0 2px, var(--paper-3) 2px 4px);
}

.ready,
.scheduled {
  background: var(--ink-3);
}

.under_way {
  background: var(--accent);
}

.done,
.returned {
  background: var(--better);
}
</style>
