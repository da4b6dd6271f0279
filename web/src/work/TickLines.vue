<script setup lang="ts">
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import { dateTime, hours } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { tickJob } from './changes'

/** Lines of an order that are ticked off as they are done: steps, and what must be permitted before. */
const props = defineProps<{
  work: WorkDetail
  lines: Schemas['JobLine'][]
  /** What the lines are. */
  of: 'step' | 'permit' | 'asset_permit'
}>()
const { to } = useAddress()
const tick = useChange(tickJob)
const set = (place: number, event: Event) =>
  tick.mutate({
    number: props.work.number,
    body: { [props.of]: place, done: (event.target as HTMLInputElement).checked },
  })
</script>

<template>
  <ol>
    <li v-for="(line, place) in lines" :key="place">
      <label :class="{ done: line.ticked_at }">
        <input
          type="checkbox"
          :checked="line.ticked_at != null"
          :disabled="!work.may_tick || work.is_over || tick.isPending.value"
          :data-test="`tick-${of}-${place}`"
          @change="set(place, $event)"
        />
        <span class="said">{{ line.text }}</span>
      </label>
      <span v-if="line.asset" class="quiet small">{{ line.asset_name ?? line.asset }}</span>
      <RouterLink v-for="meter in line.meters" :key="meter" :to="to(`/watch/${meter}`)" class="small">
        read {{ meter }}
      </RouterLink>
      <span v-if="line.hours" class="quiet small">{{ hours(line.hours) }} h</span>
      <span v-if="line.ticked_at" class="quiet small"
        >{{ line.ticked_by }}, {{ dateTime(line.ticked_at) }}</span
      >
    </li>
  </ol>
  <ProblemNote :error="tick.error.value" />
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

label {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

input {
  width: 17px;
  height: 17px;
  transform: translateY(3px);
}

.done .said {
  color: var(--ink-2);
  text-decoration: line-through;
}
</style>
