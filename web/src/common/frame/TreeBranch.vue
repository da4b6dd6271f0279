<script setup lang="ts">
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { computed, inject } from 'vue'
import type { AssetNode } from '../api'
import SeverityStrokes from '../SeverityStrokes.vue'
import { useAddress } from '../useAddress'
import { TREE } from './tree'

const props = defineProps<{
  node: AssetNode
  depth: number
}>()

const { scope, change } = useAddress()
const tree = inject(TREE)!
const { reached } = tree
const open = computed({
  get: () => tree.isOpen(props.node, props.depth),
  set: (open) => tree.turn(props.node, open),
})
const children = computed(() => tree.below(props.node))
/** Right opens, and then leads to the first below; left closes, and then leads to the one above. */
function inward(event: KeyboardEvent) {
  if (!props.node.has_children) return
  if (!open.value) open.value = true
  else item(event)?.querySelector<HTMLElement>(':scope > ul .name')?.focus()
}
function outward(event: KeyboardEvent) {
  if (open.value && props.node.has_children) open.value = false
  else item(event)?.parentElement?.closest('li')?.querySelector<HTMLElement>('.name')?.focus()
}
const item = (event: KeyboardEvent) => (event.target as HTMLElement).closest('li')
const here = computed(() => scope.value === props.node.code)
</script>

<template>
  <li role="treeitem" :aria-expanded="node.has_children ? open : undefined" :aria-selected="here">
    <div class="row" :class="{ here }" :style="{ paddingLeft: `${depth * 13 + 8}px` }">
      <button
        v-if="node.has_children"
        class="plain fold"
        tabindex="-1"
        :aria-label="open ? `Close ${node.name}` : `Open ${node.name}`"
        @click="open = !open"
      >
        <ChevronDown v-if="open" :size="14" />
        <ChevronRight v-else :size="14" />
      </button>
      <span v-else class="fold" />
      <button
        class="plain name"
        :title="`${node.name} · ${node.code}`"
        :tabindex="reached === node.code ? 0 : -1"
        @click="change({ scope: node.code })"
        @focus="reached = node.code"
        @keydown.right="inward"
        @keydown.left="outward"
      >
        {{ node.name }}
      </button>
      <span v-if="node.open_work" class="open" :title="`${node.open_work} open work orders`">
        {{ node.open_work }}
      </span>
      <SeverityStrokes :severity="node.worst_severity" />
    </div>
    <ul v-if="open && children.length" role="group">
      <TreeBranch v-for="child in children" :key="child.code" :node="child" :depth="depth + 1" />
    </ul>
  </li>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 4px;
  padding-right: 10px;
  min-height: 27px;
}

.row:hover {
  background: var(--paper-2);
}

.here {
  background: var(--accent-soft);
}

.here .name {
  font-weight: 600;
}

.fold {
  flex: none;
  place-items: center;
  width: 24px;
  min-height: 24px;
  margin: 0 -3px 0 -6px;
  display: grid;
  color: var(--ink-3);
}

.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 14px;
}

.open {
  font-size: 12.5px;
  color: var(--ink-2);
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
</style>
