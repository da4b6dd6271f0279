<script setup lang="ts">
import { asset, assets } from '../queries/plant'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, provide, ref, watch } from 'vue'
import { installation } from '../installation'
import ProblemNote from '../ProblemNote.vue'
import { useAddress } from '../useAddress'
import TreeBranch from './TreeBranch.vue'
import { FIRST_OPEN, TREE, byParent, useOpen } from './tree'

const { scope, change } = useAddress()

const detail = useQuery(() => ({ ...asset(scope.value), enabled: scope.value !== '' }))
/** What lies above the scope, to be open. */
const above = computed(() => detail.data.value?.above.map((asset) => asset.code) ?? [])
const { isOpen, turn, opened } = useOpen(above)
/** All that is in sight in one question, however much stands open. */
const nodes = useQuery(() => ({ ...assets(FIRST_OPEN, opened.value), placeholderData: keepPreviousData }))
const children = computed(() => byParent(nodes.data.value ?? []))
const roots = computed(() => children.value.get('') ?? [])
const again = () => Promise.all([nodes.refetch(), scope.value ? detail.refetch() : undefined])
/** The one node that is reached by Tab; arrows lead on from there (WAI-ARIA's pattern for trees). */
const reached = ref('')
provide(TREE, { reached, isOpen, turn, below: (node) => children.value.get(node.code) ?? [] })
watch([scope, roots], ([code, tops]) => (reached.value = code || reached.value || (tops[0]?.code ?? '')), {
  immediate: true,
})
/** Up, down, home and end go through all nodes in sight. */
function step(event: KeyboardEvent) {
  const names = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('.name')]
  const now = names.indexOf(event.target as HTMLElement)
  const to = { ArrowDown: now + 1, ArrowUp: now - 1, Home: 0, End: names.length - 1 }[event.key]
  if (now < 0 || to === undefined) return
  event.preventDefault()
  names[Math.min(Math.max(to, 0), names.length - 1)]?.focus()
}
</script>

<template>
  <aside aria-label="Asset tree">
    <p class="head">
      <button class="plain" :class="{ here: !scope }" @click="change({ scope: '' })">
        All of {{ installation.name }}
      </button>
    </p>
    <ProblemNote :error="nodes.error.value ?? detail.error.value" :again="again" class="none" />
    <ul v-if="roots.length" role="tree" aria-label="Assets" @keydown="step">
      <TreeBranch v-for="node in roots" :key="node.code" :node="node" :depth="0" />
    </ul>
    <p v-else-if="nodes.isSuccess.value" class="quiet small none">
      No assets yet. <RouterLink to="/setup/files/assets">Import them</RouterLink> or
      <RouterLink to="/setup/assets/new">add the first</RouterLink>.
    </p>
  </aside>
</template>

<style scoped>
aside {
  border-right: 1px solid var(--rule);
  overflow: auto;
  padding: 14px 0 30px;
}

.head {
  margin: 0 0 6px 18px;
  font-size: 13px;
  color: var(--ink-2);
}

.here {
  color: var(--ink);
  font-weight: 600;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.none {
  margin: 10px 18px;
}
</style>
