<script setup lang="ts">
import { period as periodNamed } from '../queries/plant'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { ChevronLeft, ChevronRight } from '@lucide/vue'
import { onClickOutside, onKeyStroke } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { date } from '../format'
import { useAddress } from '../useAddress'
import { isCommand } from './keys'

const { period, change } = useAddress()
const names: Record<string, string> = {
  this_month: 'This month',
  last_month: 'Last month',
  last_12_months: 'Last 12 months',
  year_to_date: 'Year to date',
}

const { data } = useQuery(() => ({ ...periodNamed(period.value), placeholderData: keepPreviousData }))

const choice = computed({
  get: () => (period.value in names ? period.value : 'other'),
  set(name: string) {
    if (name === 'range') open.value = true
    else if (name !== 'other') change({ period: name })
  },
})
const label = computed(() => {
  if (!data.value) return ''
  const { start, end } = data.value.span
  return `${date(start)} – ${date(Date.parse(end) - 1)}`
})

const open = ref(false)
const form = useTemplateRef<HTMLElement>('form')
onClickOutside(form, () => (open.value = false))
const from = ref('')
const until = ref('')

/** The last day counts too. */
function range() {
  if (!from.value || !until.value || from.value > until.value) return
  const next = new Date(Date.parse(until.value) + 86_400_000).toISOString().slice(0, 10)
  open.value = false
  change({ period: `${from.value}..${next}` })
}

function step(direction: 'earlier' | 'later') {
  if (data.value) change({ period: data.value[direction] })
}

onKeyStroke('[', (event) => isCommand(event) && step('earlier'))
onKeyStroke(']', (event) => isCommand(event) && step('later'))
</script>

<template>
  <div class="period">
    <button class="plain" aria-label="Earlier period" title="Earlier ( [ )" @click="step('earlier')">
      <ChevronLeft :size="17" />
    </button>
    <label>
      <select v-model="choice" aria-label="Period">
        <option v-for="(name, key) in names" :key="key" :value="key">{{ name }}</option>
        <option value="range">A range…</option>
        <option v-if="choice === 'other'" value="other">{{ period }}</option>
      </select>
      <span class="dates">{{ label }}</span>
    </label>
    <button class="plain" aria-label="Later period" title="Later ( ] )" @click="step('later')">
      <ChevronRight :size="17" />
    </button>
    <form
      v-if="open"
      ref="form"
      v-arrive
      class="range"
      @submit.prevent="range"
      @keydown.esc.stop="open = false"
    >
      <label class="field">First day <input v-model="from" class="line" type="date" required /></label>
      <label class="field"
        >Last day <input v-model="until" class="line" type="date" :min="from" required
      /></label>
      <button class="act">Show</button>
      <button type="button" class="act" @click="open = false">Cancel</button>
    </form>
  </div>
</template>

<style scoped>
.period {
  position: relative;
  display: flex;
  align-items: center;
  gap: 2px;
}

.period > .plain {
  display: grid;
  place-items: center;
  min-width: 28px;
  min-height: 28px;
  color: var(--ink-2);
}

label:not(.field) {
  display: grid;
  line-height: 1.15;
}

select {
  border: 0;
  background: transparent;
  color: var(--ink);
  font: 600 13.5px var(--sans);
  padding: 0;
  margin-left: -4px;
  cursor: pointer;
}

option {
  background: var(--paper);
}

span {
  font-size: 11.5px;
  color: var(--ink-3);
  white-space: nowrap;
}

.range {
  position: absolute;
  top: 44px;
  left: 0;
  z-index: 20;
  display: flex;
  gap: 10px;
  align-items: end;
  padding: 12px;
  background: var(--paper);
  border: 1px solid var(--ink);
}
</style>
