<script setup lang="ts">
import type { Schemas } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'

/** What work waits for, and until when as far as is known. */
const waitingFor = defineModel<Schemas['WaitingFor']>('waitingFor', { required: true })
const expectedUntil = defineModel<string>('expectedUntil', { required: true })
</script>

<template>
  <ChoiceField v-model="waitingFor" label="Waits for">
    <option value="parts">parts</option>
    <option value="outage">an outage</option>
    <option value="people">people</option>
    <option value="other">something else</option>
  </ChoiceField>
  <InstantField v-model="expectedUntil" label="Expected until" />
</template>
