<script setup lang="ts">
import type { MeterRow } from '../common/api'
import { unit as shown } from '../common/format'

defineProps<{
  choices: MeterRow[]
  /** Of the meter that is laid over, once it is. */
  unit?: string
}>()
const chosen = defineModel<string>({ required: true })
</script>

<template>
  <label :class="{ over: chosen }">
    Lay over
    <select v-model="chosen" class="line" name="over" aria-label="Lay another meter over the trend">
      <option value="">nothing</option>
      <option v-for="meter in choices" :key="meter.code" :value="meter.code">
        {{ meter.name }}, {{ meter.asset.name }}
      </option>
    </select>
    <span v-if="unit">{{ shown(unit) }}, scale on the right</span>
  </label>
</template>

<style scoped>
label {
  white-space: nowrap;
  display: flex;
  gap: 6px;
  align-items: center;
}

select {
  flex: none;
  width: 118px;
  min-height: 26px;
  padding: 0 4px;
  font-size: 13px;
}

.over {
  color: var(--other);
}
</style>
