<script setup lang="ts">
import type { Schemas } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import { fromLocal, localDate } from '../common/format'

/** What work waits for, and until when as far as is known. */
const props = defineProps<{
  /** When missing parts would be there, as `2026-03-02`, where that is known. */
  partsExpectedOn?: string | null
}>()
const waitingFor = defineModel<Schemas['WaitingFor']>('waitingFor', { required: true })
const expectedUntil = defineModel<string>('expectedUntil', { required: true })
/** By the end of that day. */
const take = (on: string) => (expectedUntil.value = fromLocal(`${on}T23:59`) ?? '')
</script>

<template>
  <ChoiceField v-model="waitingFor" label="Waits for">
    <option value="parts">parts</option>
    <option value="outage">an outage</option>
    <option value="people">people</option>
    <option value="other">something else</option>
  </ChoiceField>
  <InstantField v-model="expectedUntil" label="Expected until" />
  <p v-if="waitingFor === 'parts' && props.partsExpectedOn" class="quiet small">
    The storeroom gets what is missing by
    <button type="button" class="act" data-test="parts-expected" @click="take(props.partsExpectedOn)">
      {{ localDate(props.partsExpectedOn) }}
    </button>
  </p>
</template>
