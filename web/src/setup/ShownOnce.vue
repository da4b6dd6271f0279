<script setup lang="ts">
import { useClipboard } from '@vueuse/core'

/** A secret that is shown this once: to be copied and kept elsewhere. */
const props = defineProps<{ of: string; secret: string; until?: string }>()
defineEmits<{ seen: [] }>()
const { copy, copied, isSupported } = useClipboard({ source: () => props.secret })
</script>

<template>
  <section role="status" data-test="shown-once">
    <p>
      {{ of }}, shown this once<template v-if="until">; it works {{ until }}</template
      >:
    </p>
    <code>{{ secret }}</code>
    <p class="does">
      <button v-if="isSupported" class="act" @click="copy()">{{ copied ? 'Copied' : 'Copy it' }}</button>
      <button class="act" data-test="secret-seen" @click="$emit('seen')">I have it</button>
    </p>
  </section>
</template>

<style scoped>
section {
  margin: 14px 0;
  padding: 12px 14px;
  background: var(--paper-2);
}

p {
  margin: 0 0 8px;
}

code {
  display: block;
  padding: 8px 10px;
  background: var(--paper);
  border: 1px solid var(--rule-2);
  font-size: 15px;
  overflow-wrap: anywhere;
  user-select: all;
}

.does {
  display: flex;
  gap: 18px;
  margin: 10px 0 0;
}
</style>
