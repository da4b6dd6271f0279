<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { answer, api, type Ladder } from '../common/api'
import { hours, money } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { useAddress } from '../common/useAddress'
import FinderCurve from './FinderCurve.vue'
import { rungName } from './ladder'

const props = defineProps<{
  /** Code of the equipment class. */
  equipmentClass: string
  name: string
  unit: string
}>()
const draft = defineModel<Ladder>({ required: true })
const { period } = useAddress()

const asked = refDebounced(
  computed(() => JSON.stringify(draft.value)),
  150,
)
const { data, error } = useQuery({
  queryKey: ['replay', 'family', () => props.equipmentClass, () => props.name, period, asked],
  queryFn: () =>
    answer(
      api.POST('/api/v1/families/{class}/{name}/replay', {
        params: { path: { class: props.equipmentClass, name: props.name } },
        body: { period: period.value, ladder: JSON.parse(asked.value) as Ladder },
      }),
    ),
  placeholderData: (before) => before,
  retry: false,
})
const count = (n: number, one: string, many: string) => `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
const sentence = computed(() => {
  const all = data.value
  if (!all) return ''
  const failures = all.caught + all.missed
  const caught = failures
    ? `In this period they would have caught ${all.caught} of ${count(failures, 'failure', 'failures')}`
    : 'No failure came in this period'
  return `${caught}; ${count(all.nuisance, 'nuisance spell', 'nuisance spells')}, ${count(all.work, 'work order', 'work orders')}.`
})
/** The rung that the finder moves. */
const chosen = ref<number>()
const movable = computed(() =>
  draft.value.rungs.flatMap((rung, place) => (rung.setpoint == null ? [] : [{ rung, place }])),
)
const ask = (place: number, ladder: Ladder, deadbands: number[] = []) =>
  answer(
    api.POST('/api/v1/families/{class}/{name}/finder', {
      params: { path: { class: props.equipmentClass, name: props.name } },
      body: { period: period.value, ladder, rung: place, steps: 50, deadbands },
    }),
  )
</script>

<template>
  <section aria-live="polite" data-test="family-replay">
    <ProblemNote v-if="!data" :error="error" />
    <template v-if="data">
      <p class="sentence">{{ sentence }}</p>
      <p class="quiet small">
        Over {{ data.readings.toLocaleString('en-GB') }} readings; the work would have taken
        {{ hours(data.hours) }} h and {{ money(Math.round(data.cost)) }} {{ installation.currency }}, at what
        such work usually comes to.
      </p>
      <p v-if="movable.length" class="find">
        Find a setpoint for
        <button
          v-for="one in movable"
          :key="one.place"
          type="button"
          class="plain rung"
          :aria-pressed="chosen === one.place"
          @click="chosen = chosen === one.place ? undefined : one.place"
        >
          <SeverityStrokes :severity="one.rung.severity" /> {{ rungName(one.rung) }}
        </button>
      </p>
      <FinderCurve
        v-if="chosen !== undefined && draft.rungs[chosen]"
        v-model="draft"
        :of="`${equipmentClass}/${name}`"
        :unit="unit"
        :place="chosen"
        :ask="ask"
      />
    </template>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 16px;
}

.sentence {
  margin: 0 0 4px;
  font: 500 18px/1.35 var(--serif);
}

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
