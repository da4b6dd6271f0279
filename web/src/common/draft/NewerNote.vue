<script setup lang="ts">
defineProps<{
  /** Who saved it, when and why, in words. */
  words: string
}>()
const emit = defineEmits<{ theirs: []; mine: [] }>()
</script>

<template>
  <div class="newer" role="status" data-test="newer">
    <p><strong>Saved meanwhile:</strong> {{ words }}. What you typed is kept.</p>
    <p class="buttons">
      <button type="button" class="act" data-test="take-theirs" @click="emit('theirs')">
        Show theirs, drop mine
      </button>
      <button type="button" class="act" data-test="keep-mine" @click="emit('mine')">Go on with mine</button>
    </p>
  </div>
</template>

<style scoped>
.newer {
  padding: 10px 12px;
  margin: 10px 0;
  border-left: 3px solid var(--accent);
  background: var(--paper-2);
}

p {
  margin: 0 0 4px;
}

.buttons {
  display: flex;
  gap: 16px;
}
</style>
