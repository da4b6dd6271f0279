<script setup lang="ts">
import { Camera } from '@lucide/vue'
import { useId } from 'vue'
import type { Sending } from './useSending'

/** Chooses photos and papers, and says how those fare that are on their way. */
defineProps<{ under: Sending[]; label?: string }>()
const emit = defineEmits<{ give: [files: FileList | null]; again: [one: Sending]; leave: [one: Sending] }>()
const id = useId()
function choose(event: Event) {
  const input = event.target as HTMLInputElement
  emit('give', input.files)
}
/** The same may be chosen again. */
const forget = (event: Event) => ((event.target as HTMLInputElement).value = '')
</script>

<template>
  <div class="add">
    <label :for="id" class="button">
      <Camera :size="18" aria-hidden="true" /> {{ label ?? 'Add a photo' }}
      <input
        :id="id"
        type="file"
        accept="image/jpeg,image/png,image/webp,image/gif,application/pdf"
        multiple
        name="photos"
        @change="choose"
        @click="forget"
      />
    </label>
    <ul v-if="under.length" aria-live="polite">
      <li v-for="one in under" :key="one.from.name + one.from.lastModified" class="small">
        <span v-if="!one.wrong" class="quiet">{{ one.from.name }} is on its way …</span>
        <template v-else>
          <span class="wrong">{{ one.from.name }} {{ one.wrong }}</span>
          <button type="button" class="act" @click="emit('again', one)">Try again</button>
          <button type="button" class="act" @click="emit('leave', one)">Leave out</button>
        </template>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.button {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--accent);
  border-radius: 4px;
  color: var(--accent);
  cursor: pointer;
}

.button:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}

input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
}

.wrong {
  color: var(--worse);
}
</style>
