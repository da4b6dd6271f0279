<script setup lang="ts">
defineProps<{
  /** What is not there, in a few words. */
  title: string
}>()
</script>

<template>
  <div class="empty">
    <h2>{{ title }}</h2>
    <p class="quiet"><slot /></p>
  </div>
</template>

<style scoped>
.empty {
  padding: 48px 0;
  max-width: 52ch;
}

p {
  margin: 8px 0 0;
}
</style>
