<script setup lang="ts">
import { computed } from 'vue'

/** Months side by side, each with one bar or several, some of them in parts. */
const props = defineProps<{
  label: string
  months: { key: string; says: string; bars: { value: number; tone: string; title: string }[][] }[]
  height?: number
}>()
const most = computed(() =>
  Math.max(
    1e-9,
    ...props.months.flatMap((month) =>
      month.bars.map((parts) => parts.reduce((sum, part) => sum + part.value, 0)),
    ),
  ),
)
const share = (value: number) => `${(100 * value) / most.value}%`
</script>

<template>
  <div class="months" :style="{ height: `${height ?? 130}px` }" role="img" :aria-label="label">
    <div v-for="month in months" :key="month.key" class="month">
      <div class="bars">
        <div v-for="(parts, at) in month.bars" :key="at" class="bar">
          <span
            v-for="(part, place) in parts"
            :key="place"
            :class="part.tone"
            :style="{ height: share(part.value) }"
            :title="part.title"
          />
        </div>
      </div>
      <span class="small quiet says">{{ month.says }}</span>
    </div>
  </div>
</template>

<style scoped>
.months {
  display: grid;
  grid-auto-columns: minmax(0, 1fr);
  grid-auto-flow: column;
  gap: 6px;
}

.month {
  display: grid;
  grid-template-rows: 1fr auto;
  min-height: 0;
}

.bars {
  display: flex;
  gap: 2px;
  min-height: 0;
  border-bottom: 1.5px solid var(--ink);
  justify-content: center;
}

.bar {
  display: flex;
  flex: 1;
  flex-direction: column-reverse;
  max-width: 34px;
}

.says {
  overflow: hidden;
  text-align: center;
  white-space: nowrap;
}

.plain {
  background: var(--rule-2);
}

.strong {
  background: var(--accent);
}

.warm {
  background: var(--alert);
}

.bad {
  background: var(--worse);
}

.cool {
  background: var(--other);
}

.soft {
  background: var(--notice);
}
</style>
