<script setup lang="ts">
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
  <label class="field">
    Puts what it belongs to down
    <select v-model="kind" class="line" name="effect">
      <option value="no">no</option>
      <option value="yes">yes</option>
      <option value="group">as one of a group</option>
    </select>
  </label>
  <template v-if="effect.kind === 'group'">
    <label class="field">
      Group
      <input
        class="line"
        name="effect-group"
        :value="effect.name"
        @input="change({ name: ($event.target as HTMLInputElement).value })"
      />
    </label>
    <label class="field narrow">
      Needed
      <input
        class="line"
        type="number"
        min="1"
        name="effect-needs"
        :value="effect.needs"
        @input="change({ needs: Number(($event.target as HTMLInputElement).value) })"
      />
    </label>
  </template>
</template>
