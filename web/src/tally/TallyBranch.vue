<script setup lang="ts">
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api, type TallyRow } from '../common/api'
import { useAddress } from '../common/useAddress'
import TallyCell from './TallyCell.vue'
import type { Column } from './columns'

const props = defineProps<{
  row: TallyRow
  /** Rows below it, where they came with it. */
  children?: TallyRow[]
  /** Rows beside it, to shade what stands out among them. */
  siblings: TallyRow[]
  columns: Column[]
  basis: 'as_was' | 'as_is'
  depth: number
  order: (a: TallyRow, b: TallyRow) => number
}>()
const openRows = defineModel<Set<string>>('openRows', { required: true })

const { period, change } = useAddress()
/** The scope's own row stands open; the others when pressed. */
const open = computed(() => (props.depth === 0) !== openRows.value.has(props.row.asset))
const given = computed(() => props.children !== undefined && props.children.length > 0)

const { data } = useQuery({
  queryKey: ['tally', () => props.row.asset, period, () => props.basis],
  queryFn: () =>
    answer(
      api.GET('/api/v1/tally', {
        params: { query: { scope: props.row.asset, period: period.value, basis: props.basis, depth: 1 } },
      }),
    ),
  enabled: () => open.value && props.row.has_children && !given.value,
})
const below = computed(() =>
  [
    ...(given.value ? (props.children ?? []) : (data.value?.rows.filter((row) => row.depth === 1) ?? [])),
  ].sort(props.order),
)

function toggle() {
  const next = new Set(openRows.value)
  if (!next.delete(props.row.asset)) next.add(props.row.asset)
  openRows.value = next
}
</script>

<template>
  <tr :class="`depth-${depth}`" :data-test="`tally-${row.asset}`">
    <td class="stays">
      <div class="asset" :style="{ paddingLeft: `${depth * 15}px` }">
        <button
          v-if="row.has_children"
          class="plain fold"
          :aria-expanded="open"
          :aria-label="open ? `Close ${row.name}` : `Open ${row.name}`"
          @click="toggle"
        >
          <ChevronDown v-if="open" :size="14" />
          <ChevronRight v-else :size="14" />
        </button>
        <span v-else class="fold" />
        <button class="plain name" :title="`Look at ${row.name} alone`" @click="change({ scope: row.asset })">
          {{ row.name }}
        </button>
      </div>
    </td>
    <TallyCell v-for="column in columns" :key="column.id" :row="row" :siblings="siblings" :column="column" />
  </tr>
  <template v-if="open">
    <TallyBranch
      v-for="child in below"
      :key="child.asset"
      v-model:open-rows="openRows"
      :row="child"
      :siblings="below"
      :columns="columns"
      :basis="basis"
      :depth="depth + 1"
      :order="order"
    />
  </template>
</template>

<style scoped>
/* The name stays in sight when the figures are moved beside an open why. */
.stays {
  position: sticky;
  left: 0;
  background: var(--paper);
}

.asset {
  display: flex;
  margin-left: -4px;
  align-items: baseline;
  gap: 3px;
  min-width: 190px;
}

.fold {
  flex: none;
  width: 15px;
  color: var(--ink-3);
  align-self: center;
  display: grid;
}

.depth-0 .name {
  font: 600 16px var(--serif);
}

.depth-1 .name {
  font-weight: 600;
}
</style>
