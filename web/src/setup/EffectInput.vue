<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { computed } from 'vue'
import type { Effect } from './effect'

const effect = defineModel<Effect>({ required: true })
const kind = computed({
  get: () => effect.value.kind,
  set(kind) {
    effect.value = kind === 'group' ? { kind, name: 'pumps', needs: 1 } : { kind }
  },
})
function change(part: { name?: string; needs?: number }) {
  if (effect.value.kind === 'group') effect.value = { ...effect.value, ...part }
}
</script>

<template>
  <ChoiceField v-model="kind" label="Puts what it belongs to down" name="effect">
    <option value="no">no</option>
    <option value="yes">yes</option>
    <option value="group">as one of a group</option>
  </ChoiceField>
  <template v-if="effect.kind === 'group'">
    <TextField
      label="Group"
      name="effect-group"
      :model-value="effect.name"
      @update:model-value="change({ name: $event ?? '' })"
    />
    <NumberField
      class="narrow"
      label="Needed"
      :min="1"
      name="effect-needs"
      :model-value="effect.needs"
      @update:model-value="change({ needs: $event ?? 1 })"
    />
  </template>
</template>
