<script setup lang="ts">
import { computed } from 'vue'
import type { Ladder, Problem } from '../common/api'
import FormField from '../common/fields/FormField.vue'

/** What holds for all rungs of a ladder, folded away: it is seldom changed. */
defineProps<{ problem?: Problem }>()
const draft = defineModel<Ladder>({ required: true })

const suspending = computed({
  get: () => draft.value.suspended_while?.meter ?? '',
  set: (code) =>
    (draft.value.suspended_while = code
      ? { meter: code, below: draft.value.suspended_while?.below ?? 1 }
      : undefined),
})
</script>

<template>
  <details class="whole">
    <summary class="quiet small">More about these limits</summary>
    <label class="field">
      That interval is
      <select v-model="draft.raise_interval_of" class="line" name="interval-of">
        <option value="ladder">of these limits</option>
        <option value="asset">of all limits on the asset</option>
      </select>
    </label>
    <label class="check"
      ><input v-model="draft.separate_work" type="checkbox" name="separate" /> raise separate work instead of
      joining what is open</label
    >
    <FormField
      v-slot="{ field }"
      label="Suspended while another meter"
      :wrong="problem?.of('suspended_while.meter')"
    >
      <input
        v-model.lazy="suspending"
        v-bind="field"
        class="line"
        name="suspended"
        placeholder="code, or empty"
      />
    </FormField>
    <label v-if="draft.suspended_while" class="field">
      is below
      <input
        v-model.number="draft.suspended_while.below"
        class="line"
        type="number"
        step="any"
        name="suspended-below"
      />
    </label>
  </details>
</template>

<style scoped>
.whole {
  margin-top: 10px;
}

.whole .field,
.check {
  margin-top: 8px;
}

.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 14px;
}
</style>
