<script setup lang="ts">
import { ChevronDown, ChevronRight } from '@lucide/vue'
import SeverityStrokes from '../SeverityStrokes.vue'
import type { Row } from './tree'

defineProps<{
  row: Row
  /** It is the scope of all screens. */
  here: boolean
  /** Tab leads to it. */
  reached: boolean
}>()
const emit = defineEmits<{ turn: [open: boolean]; choose: []; reach: []; inward: []; outward: [] }>()
</script>

<template>
  <div
    role="treeitem"
    :aria-level="row.depth + 1"
    :aria-setsize="row.among"
    :aria-posinset="row.place"
    :aria-expanded="row.node.has_children ? row.open : undefined"
    :aria-selected="here"
  >
    <div class="row" :class="{ here }" :style="{ paddingLeft: `${row.depth * 13 + 8}px` }">
      <button
        v-if="row.node.has_children"
        class="plain fold"
        tabindex="-1"
        :aria-label="row.open ? `Close ${row.node.name}` : `Open ${row.node.name}`"
        @click="emit('turn', !row.open)"
      >
        <ChevronDown v-if="row.open" :size="14" />
        <ChevronRight v-else :size="14" />
      </button>
      <span v-else class="fold" />
      <button
        class="plain name"
        :title="`${row.node.name} · ${row.node.code}`"
        :data-code="row.node.code"
        :tabindex="reached ? 0 : -1"
        @click="emit('choose')"
        @focus="emit('reach')"
        @keydown.right="emit('inward')"
        @keydown.left="emit('outward')"
      >
        {{ row.node.name }}
      </button>
      <span v-if="row.node.open_work" class="open" :title="`${row.node.open_work} open work orders`">
        {{ row.node.open_work }}
      </span>
      <SeverityStrokes :severity="row.node.worst_severity" />
    </div>
  </div>
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
</style>
