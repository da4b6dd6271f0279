<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'
import AssetTree from './common/frame/AssetTree.vue'
import KeySheet from './common/frame/KeySheet.vue'
import TopBar from './common/frame/TopBar.vue'
import WhyDrawer from './common/frame/WhyDrawer.vue'
import { keySheet, useKeys } from './common/frame/useKeys'
import { dateTime } from './common/format'
import { installation, now, useInstallation } from './common/installation'
import ProblemNote from './common/ProblemNote.vue'
import { useLive } from './common/useLive'
import { useWhy } from './common/useWhy'
import UndoBar from './setup/UndoBar.vue'

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
// A phone has no room for the tree beside the work.
const treeOpen = useLocalStorage('fair-tally-tree', window.innerWidth >= 760)
</script>

<template>
  <div class="frame" :class="{ folded: !treeOpen, explained: asked }">
    <TopBar v-model:tree-open="treeOpen" class="top no-print" />
    <AssetTree v-if="treeOpen" class="tree no-print" />
    <main v-if="ready" id="screen">
      <p class="only-print small">{{ installation.name }}, {{ dateTime(now) }}</p>
      <p v-if="outdated" class="outdated" role="alert">
        A newer version of the application is here, and a part of this one is gone.
        <button class="act" @click="reload()">Load it anew</button>
      </p>
      <RouterView />
    </main>
    <main v-else-if="error" id="screen">
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
  grid: 54px minmax(0, 1fr) / 258px minmax(0, 1fr);
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
}

.outdated {
  padding: 10px 14px;
  background: var(--paper-2);
}

main {
  grid-area: main;
  overflow: auto;
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
    overflow: visible;
    padding: 0;
  }
}
</style>
