<script setup lang="ts">
import { computed } from 'vue'
import NumberField from '../fields/NumberField.vue'
import Sparkline from '../chart/Sparkline.vue'
import type { Schemas } from '../api'
import { ago, plain, unit as unitWord } from '../format'
import { now } from '../installation'

/** A number with its unit, what it was last, and where it should be. */
const props = defineProps<{
  question: Schemas['AskedQuestion']
  wrong?: string
  outside: boolean
  readOnly: boolean
}>()
const value = defineModel<number | null>()
const unit = computed(() => {
  const { asks, meter } = props.question
  return unitWord(meter?.unit ?? (asks.kind === 'number' ? (asks.unit ?? '') : ''))
})
const band = computed(() => {
  const { low, high } = props.question
  if (low != null && high != null) return `${plain(low)} to ${plain(high)}`
  if (low != null) return `${plain(low)} or more`
  return high == null ? undefined : `${plain(high)} or less`
})
const last = computed(() => {
  const { meter, earlier } = props.question
  if (meter?.last_told && meter.last_at) return { told: meter.last_told, at: meter.last_at }
  const before = earlier.at(-1)
  return before && { told: `${plain(before.value)} ${unit.value}`.trim(), at: before.at }
})
const trend = computed(() => {
  const values = props.question.earlier.map((one) => one.value)
  return value.value == null ? values : [...values, value.value]
})
</script>

<template>
  <div class="number" :class="{ outside }">
    <p v-if="readOnly" class="told">{{ value == null ? 'not answered' : `${plain(value)} ${unit}` }}</p>
    <NumberField
      v-else
      v-model="value"
      class="big"
      :label="question.text"
      unseen
      :unit="unit"
      :wrong="wrong"
      :name="`answer-${question.key}`"
    />
    <p class="small beside">
      <span v-if="band" :class="outside ? 'late' : 'quiet'">
        {{ outside ? 'outside' : 'should be' }} {{ band }} {{ unit }}
      </span>
      <span v-if="last" class="quiet">last {{ last.told }}, {{ ago(last.at, now) }}</span>
      <Sparkline v-if="trend.length > 2" :values="trend" />
    </p>
  </div>
</template>

<style scoped>
.big {
  max-width: 260px;
}

.big :deep(input) {
  min-height: 48px;
  font-size: 20px;
  font-variant-numeric: tabular-nums;
}

.told {
  margin: 0;
  font-size: 18px;
}

.outside .told,
.late {
  color: var(--worse);
  font-weight: 600;
}

.beside {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: center;
  margin: 6px 0 0;
}
</style>
