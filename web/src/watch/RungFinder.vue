<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Ladder } from '../common/api'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import FinderCurve from './FinderCurve.vue'
import { rungName } from './ladder'
import type { Subject } from './queries/tried'

const props = defineProps<{
  /** Whose readings are tried. */
  of: Subject
  /** UCUM code. */
  unit: string
}>()
const draft = defineModel<Ladder>({ required: true })

/** The rung that is moved. */
const chosen = ref<number>()
const movable = computed(() =>
  draft.value.rungs.flatMap((rung, place) => (rung.setpoint == null ? [] : [{ rung, place }])),
)
watch(
  () => JSON.stringify(props.of),
  () => (chosen.value = undefined),
)
</script>

<template>
  <p v-if="movable.length" class="find">
    Find a setpoint for
    <button
      v-for="one in movable"
      :key="one.place"
      type="button"
      class="plain rung"
      :aria-pressed="chosen === one.place"
      :data-test="`find-${one.rung.side}-${one.rung.severity}`"
      @click="chosen = chosen === one.place ? undefined : one.place"
    >
      <SeverityStrokes :severity="one.rung.severity" /> {{ rungName(one.rung) }}
    </button>
  </p>
  <FinderCurve
    v-if="chosen !== undefined && draft.rungs[chosen]"
    v-model="draft"
    :of="of"
    :unit="unit"
    :place="chosen"
  />
</template>

<style scoped>
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  margin: 6px 0;
}

.rung {
  color: var(--accent);
  font-weight: 600;
}

.rung[aria-pressed='true'] {
  border-bottom: 2px solid var(--accent);
}
</style>
