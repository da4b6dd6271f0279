<script setup lang="ts">
import { asset, assets } from '../queries/plant'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { type Range as VirtualRange, defaultRangeExtractor, useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { installation } from '../installation'
import { session } from '../session/session'
import ProblemNote from '../ProblemNote.vue'
import { useAddress } from '../useAddress'
import TreeRow from './TreeRow.vue'
import { FIRST_OPEN, type Row, byParent, inSight, useOpen } from './tree'

/** Heights of a row, and of what stands above the tree, in pixels. */
const [ROW, HEAD] = [27, 40]

const { scope, change } = useAddress()

/** What one is given; everything without. Where that is more than one asset, each screen is of one of them. */
const given = computed(() => session.value?.scope ?? [])

const detail = useQuery(() => ({ ...asset(scope.value), enabled: scope.value !== '' }))
/** What lies above the scope, to be open. */
const above = computed(() => detail.data.value?.above.map((asset) => asset.code) ?? [])
const { isOpen, turn, opened } = useOpen(above)
/** All that is in sight in one question, however much stands open. */
const nodes = useQuery(() => ({ ...assets(FIRST_OPEN, opened.value), placeholderData: keepPreviousData }))
const children = computed(() => byParent(nodes.data.value ?? []))
const roots = computed(() => children.value.get('') ?? [])
const again = () => Promise.all([nodes.refetch(), scope.value ? detail.refetch() : undefined])
const rows = computed(() => inSight(children.value, isOpen))
/** The one node that is reached by Tab; arrows lead on from there (WAI-ARIA's pattern for trees). */
const reached = ref('')
watch([scope, roots], ([code, tops]) => (reached.value = code || reached.value || (tops[0]?.code ?? '')), {
  immediate: true,
})
const aside = useTemplateRef<HTMLElement>('aside')
/** Of a long tree only what is seen is drawn. */
const virtualizer = useVirtualizer(
  computed(() => {
    // What has the focus stays, wherever one scrolls.
    const kept = rows.value.findIndex(({ node }) => node.code === reached.value)
    return {
      count: rows.value.length,
      getScrollElement: () => aside.value,
      estimateSize: () => ROW,
      getItemKey: (index: number) => rows.value[index]?.node.code ?? index,
      overscan: 20,
      scrollMargin: HEAD,
      rangeExtractor: (range: VirtualRange) => {
        const near = defaultRangeExtractor(range)
        return kept < 0 || near.includes(kept) ? near : [...near, kept].sort((a, b) => a - b)
      },
    }
  }),
)
const drawn = computed(() =>
  virtualizer.value.getVirtualItems().flatMap(({ index, start }) => {
    const row = rows.value[index]
    return row ? [{ index, row, top: start - HEAD }] : []
  }),
)
/** The focus goes to a row, which is drawn for that where it is not, and scrolls to it. */
async function focus(index: number) {
  const row = rows.value[index]
  if (!row) return
  reached.value = row.node.code
  await nextTick()
  aside.value?.querySelector<HTMLElement>(`[data-code="${CSS.escape(row.node.code)}"]`)?.focus()
}
/** Up, down, home and end go through all nodes in sight. */
function step(event: KeyboardEvent) {
  const last = rows.value.length - 1
  const now = rows.value.findIndex(({ node }) => node.code === reached.value)
  const to = { ArrowDown: now + 1, ArrowUp: now - 1, Home: 0, End: last }[event.key]
  if (to === undefined) return
  event.preventDefault()
  void focus(Math.min(Math.max(to, 0), last))
}
/** Right opens, and then leads to the first below; left closes, and then leads to the one above. */
function inward(row: Row, index: number) {
  if (!row.node.has_children) return
  if (!row.open) turn(row.node, true)
  else if ((rows.value[index + 1]?.depth ?? 0) > row.depth) void focus(index + 1)
}
function outward(row: Row) {
  if (row.open && row.node.has_children) turn(row.node, false)
  else void focus(rows.value.findIndex(({ node }) => node.code === row.node.parent))
}
</script>

<template>
  <aside ref="aside" aria-label="Asset tree">
    <p class="head">
      <template v-if="given.length > 1">Your parts of {{ installation.name }}</template>
      <button v-else class="plain" :class="{ here: !scope }" data-test="all" @click="change({ scope: '' })">
        {{ given.length ? 'Your part of' : 'All of' }} {{ installation.name }}
      </button>
    </p>
    <ProblemNote :error="nodes.error.value ?? detail.error.value" :again="again" class="none" />
    <div
      v-if="roots.length"
      role="tree"
      aria-label="Assets"
      class="all"
      :style="{ height: `${rows.length * ROW}px` }"
      @keydown="step"
    >
      <TreeRow
        v-for="{ index, row, top } in drawn"
        :key="row.node.code"
        class="one"
        :style="{ transform: `translateY(${top}px)` }"
        :row="row"
        :here="scope === row.node.code"
        :reached="reached === row.node.code"
        @turn="turn(row.node, $event)"
        @choose="change({ scope: row.node.code })"
        @reach="reached = row.node.code"
        @inward="inward(row, index)"
        @outward="outward(row)"
      />
    </div>
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

.all {
  position: relative;
}

.one {
  position: absolute;
  inset: 0 0 auto;
}

.none {
  margin: 10px 18px;
}
</style>
