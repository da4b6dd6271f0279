<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import DeskLayout from './common/frame/DeskLayout.vue'
import SheetLayout from './common/frame/SheetLayout.vue'
import { useInstallation } from './common/installation'
import { useLive } from './common/live/useLive'
import ProblemNote from './common/ProblemNote.vue'

const { ready, error, refetch } = useInstallation()
useLive()
/** What stands around a screen, as its route says. */
const layouts = { desk: DeskLayout, sheet: SheetLayout }
const route = useRoute()
const layout = computed(() => layouts[route.meta.layout ?? 'desk'])
/** A screen that was not loaded yet is asked for by a name that only the last version knew. */
const outdated = ref(false)
useEventListener(window, 'vite:preloadError', (event) => {
  event.preventDefault()
  outdated.value = true
})
const reload = () => window.location.reload()
</script>

<template>
  <component :is="layout">
    <p v-if="outdated" class="outdated" role="alert">
      A newer version of the application is here, and a part of this one is gone.
      <button class="act" @click="reload()">Load it anew</button>
    </p>
    <RouterView v-if="ready" />
    <template v-else-if="error">
      <h1>The installation can’t be read</h1>
      <ProblemNote :error="error" :again="refetch" />
    </template>
  </component>
</template>

<style scoped>
.outdated {
  padding: 10px 14px;
  background: var(--paper-2);
}
</style>
