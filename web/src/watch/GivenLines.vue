<script setup lang="ts">
/** What a computed answer takes as given, in words, folded away until it is asked for. */
defineProps<{ lines: string[] }>()
</script>

<template>
  <details class="small" data-test="given">
    <summary class="quiet">What is taken as given</summary>
    <p v-for="line in lines" :key="line" class="quiet">{{ line }}</p>
  </details>
</template>

<style scoped>
summary {
  padding: 3px 0;
  cursor: pointer;
}

p {
  margin: 3px 0;
}
</style>
