<script setup lang="ts">
import { useLocalStorage, useMediaQuery } from '@vueuse/core'
import { computed, watch, watchEffect } from 'vue'
import { useRoute } from 'vue-router'
import { dateTime } from '../format'
import { installation, now } from '../installation'
import QueueBar from '../offline/QueueBar.vue'
import { session } from '../session/session'
import UndoBar from '../change/UndoBar.vue'
import { useAddress } from '../useAddress'
import { useWhy } from '../useWhy'
import AssetTree from './AssetTree.vue'
import KeySheet from './KeySheet.vue'
import PhoneBar from './PhoneBar.vue'
import TopBar from './TopBar.vue'
import WhyDrawer from './WhyDrawer.vue'
import { keySheet, useKeys } from './useKeys'

/** At a desk, and on a phone as far as it goes: the bar, the tree, and one screen beside them. */
const { asked } = useWhy()
useKeys()
const toScreen = () => document.getElementById('screen')?.focus()
/** Narrower than this there is no room for the tree beside a table. */
const BESIDE = 1_000
const treeOpen = useLocalStorage('fair-tally-tree', window.innerWidth >= BESIDE)
const { scope, change } = useAddress()
const route = useRoute()
// Who is given several assets looks at one of them at a time.
watchEffect(() => {
  const [first, second] = session.value?.scope ?? []
  const hasArrived = route.matched.length > 0
  if (hasArrived && first && second && !scope.value) void change({ scope: first.code }, { replace: true })
})
// On a phone it lies above the screen: it makes room once something was chosen in it.
const isPhone = useMediaQuery('(max-width: 760px)')
const isForThumb = computed(() => isPhone.value && route.meta.back !== undefined)
watch(scope, () => isPhone.value && (treeOpen.value = false))
</script>

<template>
  <div class="frame" :class="{ folded: !treeOpen, explained: asked }">
    <a href="#screen" class="skip no-print" @click.prevent="toScreen">Skip to the screen</a>
    <PhoneBar v-if="isForThumb" class="top no-print" />
    <TopBar v-else v-model:tree-open="treeOpen" class="top no-print" />
    <AssetTree v-if="treeOpen && !isForThumb" class="tree no-print" />
    <main id="screen" tabindex="-1">
      <p class="only-print small">{{ installation.name }}, {{ dateTime(now) }}</p>
      <QueueBar />
      <slot />
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
