<script setup lang="ts">
import NumberField from '../common/fields/NumberField.vue'
import { useMutation } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Ladder, MeterDetail, Problem, Rung } from '../common/api'
import { unit } from '../common/format'
import { severities } from '../generated/words'
import ProblemNote from '../common/ProblemNote.vue'
import { type Edit, editedRung } from './ladder'
import RungForm from './RungForm.vue'

const props = defineProps<{
  /** Whose rungs they are, or one like it. */
  meter: MeterDetail
  problem?: Problem
}>()
const draft = defineModel<Ladder>({ required: true })

const sides = computed<Rung['side'][]>(() => (props.meter.kind === 'grade' ? ['grade'] : ['high', 'low']))
const titles = { high: 'High side', low: 'Low side', grade: 'Named values' }

/** Rungs of a side, the worst at the top of the high side and at the foot of the low side, with their place. */
function rungsOf(side: Rung['side']) {
  const direction = side === 'low' ? 1 : -1
  return draft.value.rungs
    .map((rung, place) => ({ rung, place }))
    .filter(({ rung }) => rung.side === side)
    .sort((a, b) => direction * (severities.indexOf(a.rung.severity) - severities.indexOf(b.rung.severity)))
}

/** A rung's numbers come from the server; what is typed meanwhile stays. */
const edit = (edit: Edit) => editedRung(draft.value, edit, props.meter.last?.value)
const { mutate: add, error } = useMutation({
  mutationFn: (side: Rung['side']) => edit({ edit: 'add', side }),
  onSuccess: (rung) => void draft.value.rungs.push(rung),
})
const isFull = (side: Rung['side']) => rungsOf(side).length >= severities.length

const intervalDays = computed({
  get: () => (draft.value.raise_interval_seconds ?? 0) / 86_400,
  set: (days) => (draft.value.raise_interval_seconds = Math.round((days ?? 0) * 86_400)),
})
</script>

<template>
  <fieldset v-for="side in sides" :key="side">
    <legend>
      {{ titles[side] }} <span v-if="unit(meter.unit)" class="quiet small">in {{ unit(meter.unit) }}</span>
      <button v-if="!isFull(side)" type="button" class="act" @click="add(side)">Add a {{ side }} rung</button>
    </legend>
    <RungForm
      v-for="{ place } in rungsOf(side)"
      :key="place"
      v-model="draft.rungs[place]!"
      :meter="meter"
      :place="place"
      :problem="problem"
      :edit="edit"
      @remove="draft.rungs.splice(place, 1)"
    />
  </fieldset>
  <ProblemNote :error="error" />
  <NumberField
    v-model="intervalDays"
    class="interval"
    label="Days after raising work in which these limits raise no other"
    :min="0"
    name="interval"
  />
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 12px 0 0;
  padding: 0;
  min-width: 0;
}

legend {
  display: flex;
  width: 100%;
  gap: 6px;
  align-items: baseline;
  padding: 0 0 3px;
  font-weight: 600;
  border-bottom: 1.5px solid var(--ink);
}

legend .act {
  margin-left: auto;
  padding: 0;
  font-size: 13.5px;
}

.interval {
  grid-template-columns: 1fr 76px;
  align-items: center;
  margin-top: 14px;
}
</style>
