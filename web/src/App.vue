<script setup lang="ts">
import { useEventListener, useLocalStorage, useMediaQuery } from '@vueuse/core'
import { ref, watch } from 'vue'
import AssetTree from './common/frame/AssetTree.vue'
import KeySheet from './common/frame/KeySheet.vue'
import TopBar from './common/frame/TopBar.vue'
import WhyDrawer from './common/frame/WhyDrawer.vue'
import { keySheet, useKeys } from './common/frame/useKeys'
import { dateTime } from './common/format'
import { installation, now, useInstallation } from './common/installation'
import ProblemNote from './common/ProblemNote.vue'
import { useAddress } from './common/useAddress'
import { useLive } from './common/live/useLive'
import { useWhy } from './common/useWhy'
import UndoBar from './common/change/UndoBar.vue'

const { ready, error, refetch } = useInstallation()
const { asked } = useWhy()
useKeys()
useLive()
/** A screen that was not loaded yet is asked for by a name that only the last version knew. */
const outdated = ref(false)
useEventListener(window, 'vite:preloadError', (event) => {
  event.preventDefault()
  outdated.value = true
})
const reload = () => window.location.reload()
const toScreen = () => document.getElementById('screen')?.focus()
/** Narrower than this there is no room for the tree beside a table. */
const BESIDE = 1_000
const treeOpen = useLocalStorage('fair-tally-tree', window.innerWidth >= BESIDE)
const { scope } = useAddress()
// On a phone it lies above the screen: it makes room once something was chosen in it.
const isPhone = useMediaQuery('(max-width: 760px)')
watch(scope, () => isPhone.value && (treeOpen.value = false))
</script>

<template>
  <div class="frame" :class="{ folded: !treeOpen, explained: asked }">
    <a href="#screen" class="skip no-print" @click.prevent="toScreen">Skip to the screen</a>
    <TopBar v-model:tree-open="treeOpen" class="top no-print" />
    <AssetTree v-if="treeOpen" class="tree no-print" />
    <main v-if="ready" id="screen" tabindex="-1">
      <p class="only-print small">{{ installation.name }}, {{ dateTime(now) }}</p>
      <p v-if="outdated" class="outdated" role="alert">
        A newer version of the application is here, and a part of this one is gone.
        <button class="act" @click="reload()">Load it anew</button>
      </p>
      <RouterView />
    </main>
    <main v-else-if="error" id="screen" tabindex="-1">
      <h1>The installation can’t be read</h1>
      <ProblemNote :error="error" :again="refetch" />
    </main>
    <WhyDrawer />
    <UndoBar />
    <KeySheet v-if="keySheet" v-model="keySheet" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid: minmax(54px, auto) minmax(0, 1fr) / 258px minmax(0, 1fr);
  grid-template-areas: 'top top' 'tree main';
  height: 100%;
}

.folded {
  grid-template-columns: 0 minmax(0, 1fr);
}

.explained main {
  margin-right: 420px;
}

.top {
  grid-area: top;
}

.tree {
  grid-area: tree;
  position: relative;
}

.skip {
  position: absolute;
  left: 8px;
  top: -60px;
  z-index: 20;
  padding: 8px 12px;
  background: var(--paper);
  border: 1.5px solid var(--ink);
}

.skip:focus {
  top: 8px;
}

main:focus {
  outline: none;
}

.outdated {
  padding: 10px 14px;
  background: var(--paper-2);
}

main {
  grid-area: main;
  /* What is only for screen readers stays within, so that the page itself never scrolls. */
  position: relative;
  overflow: auto;
  container: screen / inline-size;
  padding: 20px 28px 40px;
}

@media (max-width: 760px) {
  .frame {
    grid-template-columns: 0 minmax(0, 1fr);
    grid-template-rows: auto minmax(0, 1fr);
  }

  .tree {
    grid-area: main;
    z-index: 5;
    background: var(--paper);
  }

  main {
    padding: 14px 14px 32px;
  }

  .explained main {
    margin-right: 0;
  }
}

@media print {
  .frame {
    display: block;
    height: auto;
  }

  main {
    container-type: normal;
    overflow: visible;
    padding: 0;
  }
}
</style>
