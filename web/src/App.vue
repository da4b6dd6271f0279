<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import AssetTree from './common/frame/AssetTree.vue'
import KeySheet from './common/frame/KeySheet.vue'
import TopBar from './common/frame/TopBar.vue'
import WhyDrawer from './common/frame/WhyDrawer.vue'
import { keySheet, useKeys } from './common/frame/useKeys'
import { dateTime } from './common/format'
import { installation, now, useInstallation } from './common/installation'
import { useLive } from './common/useLive'
import { useWhy } from './common/useWhy'
import UndoBar from './setup/UndoBar.vue'

const { ready } = useInstallation()
const { asked } = useWhy()
useKeys()
useLive()
// A phone has no room for the tree beside the work.
const treeOpen = useLocalStorage('fair-tally-tree', window.innerWidth >= 760)
</script>

<template>
  <div class="frame" :class="{ folded: !treeOpen, explained: asked }">
    <TopBar v-model:tree-open="treeOpen" class="top no-print" />
    <AssetTree v-if="treeOpen" class="tree no-print" />
    <main v-if="ready" id="screen">
      <p class="only-print small">{{ installation.name }}, {{ dateTime(now) }}</p>
      <RouterView />
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
