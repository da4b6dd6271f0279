<script setup lang="ts">
import { ref } from 'vue'
import FormField from './FormField.vue'

/** A password: hidden until it is to be seen; pasting is welcome. */
defineProps<{
  label: string
  name: string
  autocomplete: string
  wrong?: string
  hint?: string
  /** Digits only: a phone shows its number pad. */
  digits?: boolean
}>()
const password = defineModel<string>({ required: true })
const isShown = ref(false)
</script>

<template>
  <FormField v-slot="{ field }" :label="label" :wrong="wrong" :hint="hint">
    <span class="pair">
      <input
        v-model="password"
        v-bind="field"
        class="line"
        :type="isShown ? 'text' : 'password'"
        :name="name"
        :autocomplete="autocomplete"
        :inputmode="digits ? 'numeric' : undefined"
        required
      />
      <button type="button" class="act" :aria-pressed="isShown" @click="isShown = !isShown">
        {{ isShown ? 'Hide' : 'Show' }}
      </button>
    </span>
  </FormField>
</template>

<style scoped>
.pair {
  display: flex;
  gap: 10px;
  align-items: center;
}

.pair input {
  flex: 1;
  min-width: 0;
}
</style>
