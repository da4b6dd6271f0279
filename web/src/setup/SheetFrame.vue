<script setup lang="ts">
import { X } from '@lucide/vue'
import NewerNote from '../common/draft/NewerNote.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'

/** What stands around a sheet that is written as a whole: its name above, and keeping it or taking it back below. */
defineProps<{
  /** What it is, as people call it. */
  kind: string
  title: string
  /** Of all sheets of the kind. */
  path: string
  /** There is none yet of that code. */
  isNew: boolean
  /** It was changed here. */
  isChanged: boolean
  /** What a colleague saved meanwhile. */
  newer?: { version: number; by: string }
  isPending: boolean
  error?: unknown
}>()
const emit = defineEmits<{ send: []; takeBack: []; keepMine: [] }>()
const { to } = useAddress()
</script>

<template>
  <form class="sheet" @submit.prevent="emit('send')">
    <RouterLink :to="to(path)" class="close" aria-label="Close" title="Close ( Esc )" data-close>
      <X :size="18" />
    </RouterLink>
    <p class="kicker">{{ kind }}</p>
    <h1>{{ title }}</h1>
    <slot />
    <NewerNote
      v-if="newer"
      :words="`version ${newer.version}, by ${newer.by}`"
      @theirs="emit('takeBack')"
      @mine="emit('keepMine')"
    />
    <p class="end">
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-sheet">
        {{ isNew ? `Add ${kind}` : 'Save as a new version' }}
      </ElButton>
      <button v-if="isChanged" type="button" class="act" @click="emit('takeBack')">Take back</button>
    </p>
    <ProblemNote :error="error" />
  </form>
</template>

<style scoped>
.sheet {
  position: relative;
}

.close {
  position: absolute;
  top: 0;
  right: 0;
  color: var(--ink);
}

.kicker {
  margin: 0 0 2px;
  font-size: 13px;
  font-weight: 600;
  color: var(--accent);
}

.end {
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
