<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import DeskLayout from './common/frame/DeskLayout.vue'
import SheetLayout from './common/frame/SheetLayout.vue'
import InstallationRead from './common/frame/InstallationRead.vue'
import SignInOver from './common/session/SignInOver.vue'
import SignInPage from './common/session/SignInPage.vue'
import { session } from './common/session/session'
import { readSession, unread } from './common/session/useSession'
import { isCut } from './common/offline/network'
import ProblemNote from './common/ProblemNote.vue'

void readSession()
const who = computed(() => session.value?.signed_in)
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
  <component :is="layout" v-if="who" :key="who.code">
    <p v-if="outdated" class="outdated" role="alert">
      {{
        isCut
          ? 'This screen needs the network.'
          : 'A newer version of the application is here, and a part of this one is gone.'
      }}
      <button class="act" @click="reload()">Load it anew</button>
    </p>
    <InstallationRead><RouterView /></InstallationRead>
  </component>
  <SignInPage v-else-if="session" />
  <main v-else-if="unread" class="unread">
    <h1>The server can’t be read</h1>
    <ProblemNote :error="unread" :again="readSession" />
  </main>
  <SignInOver />
</template>

<style scoped>
.unread {
  padding: 24px;
}

.outdated {
  padding: 10px 14px;
  background: var(--paper-2);
}
</style>
