<script setup lang="ts">
import { Moon, Sun } from '@lucide/vue'
import { useDark, useToggle } from '@vueuse/core'

const dark = useDark()
const toggle = useToggle(dark)
</script>

<template>
  <button
    class="plain"
    :aria-label="dark ? 'Light' : 'Dark'"
    :title="dark ? 'Light' : 'Dark'"
    @click="toggle()"
  >
    <Sun v-if="dark" :size="18" />
    <Moon v-else :size="18" />
  </button>
</template>

<style scoped>
button {
  display: grid;
  color: var(--ink-2);
}
</style>
