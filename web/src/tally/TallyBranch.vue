<script setup lang="ts">
import { figures } from '../common/queries/tally'
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type TallyRow } from '../common/api'
import { date } from '../common/format'
import { useAddress } from '../common/useAddress'
import TallyCell from './TallyCell.vue'
import type { Column } from './columns'
import { wayBelow } from './way'

const props = defineProps<{
  row: TallyRow
  /** Rows below it, where they came with it. */
  children?: TallyRow[]
  columns: Column[]
  basis: 'as_was' | 'as_is'
  depth: number
  /** The rows it stands in, where alone it counts. */
  under: string
  order: (a: TallyRow, b: TallyRow) => number
}>()
const partWords = { own: 'itself', formerly_here: 'formerly here' }
const partTitles = {
  own: 'What is booked on it, not on what stands below it',
  formerly_here: 'What stood below it once, but not in the period',
}
const openRows = defineModel<Set<string>>('openRows', { required: true })

const { period, change } = useAddress()
const way = computed(() => wayBelow(props.under, props.row.asset))
/** The scope's own row stands open; the others when pressed. */
const open = computed(
  () => props.row.kind === 'asset' && (props.depth === 0) !== openRows.value.has(way.value),
)
const given = computed(() => props.children !== undefined && props.children.length > 0)

const { data } = useQuery(() => ({
  ...figures({
    scope: props.row.asset,
    under: props.under || undefined,
    period: period.value,
    basis: props.basis,
    depth: 1,
  }),
  enabled: open.value && props.row.has_children && !given.value,
}))
const below = computed(() =>
  [
    ...(given.value ? (props.children ?? []) : (data.value?.rows.filter((row) => row.depth === 1) ?? [])),
  ].sort(props.order),
)

/** Where it stood only a part of the period, in words. */
const stood = computed(() => {
  const { came_at: came, left_at: left, retired_at: retired } = props.row
  const words = []
  if (came) words.push(`came ${date(came)}`)
  if (left) words.push(`${retired === left ? 'retired' : 'left'} ${date(left)}`)
  else if (retired) words.push(`retired ${date(retired)}`)
  return words.join(', ')
})

function toggle() {
  const next = new Set(openRows.value)
  if (!next.delete(way.value)) next.add(way.value)
  openRows.value = next
}
</script>

<template>
  <tr
    :class="[`depth-${depth}`, { rest: row.kind !== 'asset' }]"
    :data-test="row.kind === 'asset' ? `tally-${row.asset}` : `tally-${row.asset}-${row.kind}`"
  >
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
        <span v-if="row.kind !== 'asset'" class="quiet" :title="partTitles[row.kind]">{{
          partWords[row.kind]
        }}</span>
        <button
          v-else
          class="plain name"
          :title="`Look at ${row.name} alone`"
          @click="change({ scope: row.asset })"
        >
          {{ row.name }}
        </button>
      </div>
      <span v-if="stood" class="stood small quiet" :style="{ paddingLeft: `${depth * 15 + 15}px` }">{{
        stood
      }}</span>
    </td>
    <TallyCell v-for="column in columns" :key="column.id" :row="row" :column="column" :under="under" />
  </tr>
  <template v-if="open">
    <TallyBranch
      v-for="child in below"
      :key="child.kind + child.asset"
      v-model:open-rows="openRows"
      :row="child"
      :columns="columns"
      :basis="basis"
      :depth="depth + 1"
      :under="child.kind === 'asset' ? way : under"
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

/* Where they would leave no room for the figures, they go along. */
@container (width < 340px) {
  .stays {
    position: static;
  }
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
  place-items: center;
  width: 24px;
  min-height: 24px;
  margin: 0 -3px 0 -6px;
  color: var(--ink-3);
  align-self: center;
  display: grid;
}

.stood {
  display: block;
  line-height: 1.2;
}

.depth-0 .name {
  font: 600 16px var(--serif);
}

.depth-1 .name {
  font-weight: 600;
}
</style>
