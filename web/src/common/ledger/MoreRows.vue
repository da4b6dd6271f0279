<script setup lang="ts">
import { useIntersectionObserver } from '@vueuse/core'
import { useTemplateRef } from 'vue'

/** The end of a list of which there is more: the next part is there before its place is reached. */
const props = defineProps<{ more: boolean; busy: boolean; says?: string }>()
const emit = defineEmits<{ more: [] }>()
const end = useTemplateRef<HTMLElement>('end')
useIntersectionObserver(
  end,
  ([seen]) => {
    if (seen?.isIntersecting && props.more && !props.busy) emit('more')
  },
  { rootMargin: '1200px' },
)
</script>

<template>
  <p v-if="more" ref="end">
    <button class="act" @click="emit('more')">{{ says ?? 'Show more' }}</button>
  </p>
</template>
