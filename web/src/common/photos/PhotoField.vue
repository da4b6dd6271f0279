<script setup lang="ts">
import { FileText, X } from '@lucide/vue'
import AddPhotos from './AddPhotos.vue'
import { type SentFile, useSending } from './useSending'

/** Photos that go with what is being typed. */
const photos = defineModel<SentFile[]>({ required: true })
defineProps<{ label?: string; wrong?: string }>()
const { under, give, again, leave } = useSending((sent) => {
  if (!photos.value.some((one) => one.file === sent.file)) photos.value = [...photos.value, sent]
})
const without = (file: string) => (photos.value = photos.value.filter((one) => one.file !== file))
</script>

<template>
  <div class="photos" data-test="photos">
    <ul v-if="photos.length">
      <li v-for="one in photos" :key="one.file" data-test="photo">
        <img v-if="one.shown" :src="one.shown" :alt="one.name" />
        <span v-else class="paper small"><FileText :size="22" aria-hidden="true" />{{ one.name }}</span>
        <button type="button" :aria-label="`Leave ${one.name} out`" @click="without(one.file)">
          <X :size="16" />
        </button>
      </li>
    </ul>
    <AddPhotos :under="under" :label="label" @give="give" @again="again" @leave="leave" />
    <span v-if="wrong" class="wrong small" role="alert">{{ wrong }}</span>
  </div>
</template>

<style scoped>
.photos {
  display: grid;
  gap: 8px;
}

ul {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  position: relative;
}

img,
.paper {
  width: 96px;
  height: 96px;
  object-fit: cover;
  border: 1px solid var(--rule);
  border-radius: 3px;
}

.paper {
  display: grid;
  place-content: center;
  justify-items: center;
  overflow: hidden;
  overflow-wrap: anywhere;
}

li button {
  position: absolute;
  right: -4px;
  top: -4px;
  width: 30px;
  height: 30px;
  display: grid;
  place-content: center;
  border: 1px solid var(--rule);
  border-radius: 50%;
  background: var(--paper);
  color: var(--ink);
  cursor: pointer;
}

.wrong {
  color: var(--worse);
}
</style>
