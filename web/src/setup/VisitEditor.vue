<script setup lang="ts">
import { ArrowDown, ArrowUp, X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import AssetField from '../common/fields/AssetField.vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { checkSheets, jobSheets } from '../common/queries/jobs'
import type { Visit } from './round'

/** One visit of a round. */
const props = defineProps<{ place: number; isLast: boolean; wrong: (field: string) => string | undefined }>()
const emit = defineEmits<{ remove: []; move: [by: number] }>()
const visit = defineModel<Visit>({ required: true })
const at = (field: string) => props.wrong(`steps[${props.place}].${field}`)
const checks = useQuery(checkSheets())
const jobs = useQuery(jobSheets())
const active = computed(() => checks.data.value?.filter((sheet) => sheet.status === 'active') ?? [])
const followed = computed(
  () => jobs.data.value?.filter((sheet) => sheet.status === 'active' && !sheet.round) ?? [],
)
</script>

<template>
  <li
    :data-test="`visit-${place}`"
    @keydown.alt.up.prevent="emit('move', -1)"
    @keydown.alt.down.prevent="emit('move', 1)"
  >
    <strong class="number">{{ place + 1 }}</strong>
    <AssetField v-model="visit.asset" label="Visit" :wrong="at('asset')" />
    <ChoiceField
      v-model="visit.sheet"
      label="What is done there"
      name="visit-sheet"
      :wrong="at('check_sheet') ?? at('job_sheet')"
    >
      <option value="">its own check sheet</option>
      <optgroup label="Check sheets">
        <option v-for="{ code, title } in active" :key="code" :value="`check ${code}`">{{ title }}</option>
      </optgroup>
      <optgroup label="Job sheets">
        <option v-for="{ code, title } in followed" :key="code" :value="`job ${code}`">{{ title }}</option>
      </optgroup>
    </ChoiceField>
    <NumberField v-model="visit.hours" label="Hours" name="visit-hours" :wrong="at('hours')" />
    <span class="buttons">
      <button
        type="button"
        :disabled="place === 0"
        :aria-label="`Move visit ${place + 1} up`"
        title="Up ( Alt ↑ )"
        @click="emit('move', -1)"
      >
        <ArrowUp :size="16" />
      </button>
      <button
        type="button"
        :disabled="isLast"
        :aria-label="`Move visit ${place + 1} down`"
        title="Down ( Alt ↓ )"
        @click="emit('move', 1)"
      >
        <ArrowDown :size="16" />
      </button>
      <button type="button" :aria-label="`Remove visit ${place + 1}`" @click="emit('remove')">
        <X :size="16" />
      </button>
    </span>
    <TextField
      v-model="visit.text"
      class="note"
      label="What to look at besides"
      name="visit-text"
      :wrong="at('text')"
    />
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) minmax(0, 1fr) 64px auto;
  gap: 8px 12px;
  align-items: end;
  padding: 10px 0 12px;
  border-bottom: 1px solid var(--rule);
}

.number {
  align-self: start;
  padding-top: 24px;
  color: var(--ink-2);
}

.note {
  grid-column: 2 / -1;
}

.buttons {
  display: flex;
}

.buttons button {
  display: grid;
  place-items: center;
  width: 28px;
  height: 32px;
  color: var(--ink-2);
  background: none;
  border: 0;
  cursor: pointer;
}

.buttons button:disabled {
  opacity: 0.35;
  cursor: default;
}

@media (max-width: 900px) {
  li {
    grid-template-columns: 22px minmax(0, 1fr);
  }

  li > :not(.number) {
    grid-column: 2;
  }
}
</style>
