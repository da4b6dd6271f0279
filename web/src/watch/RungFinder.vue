<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { FinderView, Ladder } from '../common/api'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import FinderCurve from './FinderCurve.vue'
import { rungName } from './ladder'

const props = defineProps<{
  /** Whose readings are tried: a meter's code, or a family. */
  of: string
  /** UCUM code. */
  unit: string
  /** Asks the server what each setpoint of a rung would have come to. */
  ask: (place: number, ladder: Ladder, compare?: boolean) => Promise<FinderView>
}>()
const draft = defineModel<Ladder>({ required: true })

/** The rung that is moved. */
const chosen = ref<number>()
const movable = computed(() =>
  draft.value.rungs.flatMap((rung, place) => (rung.setpoint == null ? [] : [{ rung, place }])),
)
watch(
  () => props.of,
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
    :ask="ask"
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
