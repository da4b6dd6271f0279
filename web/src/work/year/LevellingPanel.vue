<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../common/api'
import { count, localDate, tenth, whole } from '../../common/format'

/** What levelling would move, and what that comes to. */
const props = defineProps<{ proposed: Schemas['Levelling']; busy: boolean }>()
const emit = defineEmits<{ take: []; close: [] }>()
const proven = computed(() => props.proposed.crews.every((crew) => crew.is_proven))
const tried = computed(() => {
  if (proven.value) return 'Everything was tried: nothing is better.'
  return props.proposed.over_after_hours > 0
    ? 'Moved one by one and two by two until nothing helped; a better way may exist.'
    : 'Fewer moves might do as well: not everything was tried.'
})
const SHOWN = 12
</script>

<template>
  <section class="levelling" data-test="levelling" aria-label="Levelling">
    <p v-if="!proposed.moves.length" class="says">
      Nothing to move: within what each cycle allows, no week gets better.
    </p>
    <template v-else>
      <p class="says">
        Moving <strong>{{ count(proposed.moves.length, 'cycle', 'cycles') }}</strong> takes the fullest week
        from <strong>{{ whole(proposed.peak_before_hours) }} h</strong> to
        <strong data-test="peak-after">{{ whole(proposed.peak_after_hours) }} h</strong>, and what lies beyond
        the crews’ hours from {{ whole(proposed.over_before_hours) }} h to
        <strong>{{ whole(proposed.over_after_hours) }} h</strong> in the year.
      </p>
      <p class="quiet small">
        Each stays within its tolerance.
        {{ tried }}
        The outlines above show the weeks as they would be.
      </p>
      <ol>
        <li
          v-for="one in proposed.moves.slice(0, SHOWN)"
          :key="`${one.plan} ${one.asset.code} ${one.number}`"
        >
          <span class="what"
            >{{ one.name }}
            <span class="quiet">{{ one.asset.name }}{{ one.within ? `, ${one.within}` : '' }}</span></span
          >
          <span class="figure">{{ tenth(one.hours) }} h</span>
          <span>{{ localDate(one.from) }} → {{ localDate(one.to) }}</span>
          <span class="quiet small"
            >its week held {{ tenth(one.from_load_hours) }} h, the other
            {{ tenth(one.to_load_hours) }} h</span
          >
        </li>
      </ol>
      <p v-if="proposed.moves.length > SHOWN" class="quiet small">
        and {{ proposed.moves.length - SHOWN }} more
      </p>
    </template>
    <p class="ends">
      <ElButton
        v-if="proposed.moves.length"
        type="primary"
        :loading="busy"
        data-test="take-levelling"
        @click="emit('take')"
      >
        Move {{ proposed.moves.length === 1 ? 'it' : 'them' }}
      </ElButton>
      <button class="act" @click="emit('close')">{{ proposed.moves.length ? 'Leave it' : 'Close' }}</button>
    </p>
  </section>
</template>

<style scoped>
.levelling {
  margin: 10px 0 14px;
  padding: 10px 14px 8px;
  border: 1.5px solid var(--ink);
}

.says {
  margin: 0 0 2px;
}

p {
  margin: 2px 0;
}

ol {
  margin: 8px 0 4px;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 60px 200px 250px;
  gap: 12px;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
}

.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.figure {
  text-align: right;
}

.ends {
  display: flex;
  gap: 14px;
  align-items: center;
  margin-top: 8px;
}

@media (max-width: 700px) {
  li {
    grid-template-columns: minmax(0, 1fr) 60px;
  }
}
</style>
