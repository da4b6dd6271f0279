<script setup lang="ts">
import { computed } from 'vue'
import type { ProblemCount, Severity } from '../common/api'
import FacetMenu from '../common/FacetMenu.vue'
import { severities } from '../generated/words'
import { CALM, HORIZON, LEAD, useJudging } from './useJudging'

const props = defineProps<{
  /** What the failures of the period were coded with. */
  offered: ProblemCount[]
}>()
const { problems, least, horizon, calm, lead, choose } = useJudging()

const chosen = computed(() => {
  const [first, ...others] = problems.value
  if (!first) return 'all failures'
  if (others.length) return `${problems.value.length} problems`
  return props.offered.find((one) => one.code === first)?.name ?? first
})
function turn(code: string) {
  const has = problems.value.includes(code)
  choose({ problems: has ? problems.value.filter((one) => one !== code) : [...problems.value, code] })
}
/** Days that are offered, and what the address says besides. */
const offer = (days: number[], asked: number) => [...new Set([...days, asked])].sort((a, b) => a - b)
const days = computed(() => offer([7, 14, HORIZON, 60, 90, 180], horizon.value))
</script>

<template>
  <p class="judged quiet" data-test="judged-by">
    <FacetMenu name="Judged by" :chosen="chosen">
      <label v-for="one in offered" :key="one.code">
        <input
          type="checkbox"
          :checked="problems.includes(one.code)"
          :data-test="`problem-${one.code}`"
          @change="turn(one.code)"
        />
        {{ one.name }} <span class="num">{{ one.failures }}</span>
      </label>
      <button v-if="problems.length" type="button" class="act" @click="choose({ problems: [] })">
        All failures
      </button>
      <span v-if="!offered.length">No failure was coded in the period.</span>
    </FacetMenu>
    <label>
      warned of within
      <select
        class="line"
        name="horizon"
        :value="horizon"
        @change="choose({ horizon: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="one in days" :key="one" :value="one">{{ one }} days</option>
      </select>
    </label>
    <label>
      at
      <select
        class="line"
        name="least"
        :value="least"
        @change="choose({ least: ($event.target as HTMLSelectElement).value as Severity })"
      >
        <option v-for="one in severities" :key="one" :value="one">{{ one }}</option>
      </select>
      or worse,
    </label>
    <label title="Spells that begin within this after the last was left make one warning with it">
      one warning while calm is under
      <select
        class="line"
        name="calm"
        :value="calm"
        @change="choose({ calm: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="one in offer([0, 1, 3, CALM, 14, 30], calm)" :key="one" :value="one">
          {{ one }} {{ one === 1 ? 'day' : 'days' }}
        </option>
      </select>
    </label>
    <label title="What it takes to act: a shorter warning is too late">
      too late under
      <select
        class="line"
        name="lead"
        :value="lead"
        @change="choose({ lead: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="one in offer([0, 0.25, LEAD, 3, 7, 14], lead)" :key="one" :value="one">
          {{ one === 0.25 ? '6 hours' : `${one} ${one === 1 ? 'day' : 'days'}` }}
        </option>
      </select>
    </label>
  </p>
</template>

<style scoped>
.judged {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin: 0 0 8px;
  font-size: 14px;
}

.judged > label {
  display: flex;
  gap: 6px;
  align-items: center;
}

.judged .line {
  width: auto;
  min-height: 26px;
  padding: 0 4px;
  font-size: 14px;
}

details label {
  display: grid;
  grid-template-columns: 18px 1fr auto;
  gap: 6px;
  color: var(--ink);
}
</style>
