<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import AssetField from '../common/fields/AssetField.vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { checkSheets, jobSheets } from '../common/queries/jobs'
import PlaceButtons from './PlaceButtons.vue'
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
    <PlaceButtons
      name="visit"
      :place="place"
      :is-last="isLast"
      @move="emit('move', $event)"
      @remove="emit('remove')"
    />
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

@media (max-width: 900px) {
  li {
    grid-template-columns: 22px minmax(0, 1fr);
  }

  li > :not(.number) {
    grid-column: 2;
  }
}
</style>
