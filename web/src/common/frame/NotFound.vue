<script setup lang="ts">
import EmptyState from '../EmptyState.vue'
</script>

<template>
  <EmptyState title="There is no such page">
    The address may be mistyped. Choose a workspace above, or jump to a thing with <kbd>/</kbd>.
  </EmptyState>
</template>
