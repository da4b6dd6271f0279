<script setup lang="ts">
/** One of the values of a menu, to be chosen or not. */
defineProps<{ name: string; checked: boolean; disabled?: boolean; note?: string | number }>()
defineEmits<{ toggle: [] }>()
</script>

<template>
  <label>
    <input type="checkbox" :checked="checked" :disabled="disabled" @change="$emit('toggle')" />
    <span>{{ name }}</span>
    <span v-if="note !== undefined" class="quiet">{{ note }}</span>
  </label>
</template>

<style scoped>
label {
  display: grid;
  grid-template-columns: 20px 1fr auto;
  gap: 4px 8px;
  padding: 3px 0;
  cursor: pointer;
  white-space: nowrap;
}
</style>
