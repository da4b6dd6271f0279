<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
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
    <ChoiceField v-model="draft.raise_interval_of" label="That interval is" name="interval-of">
      <option value="ladder">of these limits</option>
      <option value="asset">of all limits on the asset</option>
    </ChoiceField>
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
    <NumberField
      v-if="draft.suspended_while"
      v-model="draft.suspended_while.below"
      label="is below"
      name="suspended-below"
    />
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
