<script setup lang="ts">
defineProps<{
  /** Names of a grade's values, in order; none for a number. */
  grades: string[]
  /** Only heard; none where a label stands beside it. */
  label?: string
}>()
const value = defineModel<string>({ required: true })
</script>

<template>
  <select v-if="grades.length" v-model="value" class="line" :aria-label="label">
    <option value="">not read</option>
    <option v-for="grade in grades" :key="grade" :value="grade">{{ grade }}</option>
  </select>
  <input
    v-else
    :value="value"
    class="line"
    inputmode="decimal"
    autocomplete="off"
    :aria-label="label"
    @input="value = ($event.target as HTMLInputElement).value"
  />
</template>

<style scoped>
.line {
  width: 110px;
}
</style>
