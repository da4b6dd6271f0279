<script setup lang="ts">
/** One of a few, or some of them, on buttons that a glove hits. */
const props = defineProps<{
  label: string
  choices: { value: string; name: string }[]
  several?: boolean
  readOnly: boolean
}>()
const chosen = defineModel<string[]>({ required: true })
function press(value: string) {
  const is = chosen.value.includes(value)
  if (!props.several) chosen.value = is ? [] : [value]
  else chosen.value = is ? chosen.value.filter((one) => one !== value) : [...chosen.value, value]
}
</script>

<template>
  <div class="choices" role="group" :aria-label="label">
    <button
      v-for="{ value, name } in choices"
      :key="value"
      type="button"
      :aria-pressed="chosen.includes(value)"
      :disabled="readOnly"
      :data-test="`choose-${value}`"
      @click="press(value)"
    >
      {{ name }}
    </button>
  </div>
</template>

<style scoped>
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

button {
  min-width: 96px;
  min-height: 48px;
  padding: 0 16px;
  font: inherit;
  font-size: 16px;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--rule-2);
  border-radius: 4px;
  cursor: pointer;
}

button[aria-pressed='true'] {
  color: var(--on-accent);
  background: var(--accent);
  border-color: var(--accent);
  font-weight: 600;
}

button:disabled {
  cursor: default;
}

button:disabled[aria-pressed='false'] {
  color: var(--ink-3);
}
</style>
