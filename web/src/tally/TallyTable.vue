<script setup lang="ts">
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { useTemplateRef } from 'vue'
import Sparkline from '../common/chart/Sparkline.vue'
import { date } from '../common/format'
import { useVirtualRows } from '../common/ledger/useVirtualRows'
import { useAddress } from '../common/useAddress'
import TallyCell from './TallyCell.vue'
import type { Column } from './columns'
import type { Line } from './useTree'

/** The tree with its figures. Arrows go from figure to figure; on a name, right opens and left closes. */
const props = defineProps<{
  lines: Line[]
  columns: Column[]
  sort: string
  descending: boolean
  /** The values before and the difference stand in the cells. */
  beside?: boolean
  /** The name of the indicator whose months are drawn. */
  months?: string
}>()
const emit = defineEmits<{ sort: [id: string]; toggle: [line: Line] }>()
const { change } = useAddress()
const root = useTemplateRef<HTMLElement>('root')
const { places, before, after, measure } = useVirtualRows(root, () => props.lines.length)

const partWords = { own: 'itself', formerly_here: 'formerly here' }
const partTitles = {
  own: 'What is booked on it, not on what stands below it',
  formerly_here: 'What stood below it once, but not in the period',
}
/** Where it stood only a part of the period, in words. */
function stood({ row }: Line) {
  const words = []
  if (row.came_at) words.push(`came ${date(row.came_at)}`)
  if (row.left_at) words.push(`${row.retired_at === row.left_at ? 'retired' : 'left'} ${date(row.left_at)}`)
  else if (row.in_service_from) words.push(`in service from ${date(row.in_service_from)}`)
  else if (row.retired_at) words.push(`retired ${date(row.retired_at)}`)
  return words.join(', ')
}

/** Arrows between the cells. */
function step(event: KeyboardEvent) {
  const from = event.target as HTMLElement
  const cell = from.closest('td')
  const line = from.closest('tr')
  if (!cell || !line) return
  const at = [...line.children].indexOf(cell)
  const press = (target: Element | null | undefined) => {
    const button =
      target?.querySelector<HTMLElement>('[data-row]') ?? target?.querySelector<HTMLElement>('button')
    if (!button) return
    event.preventDefault()
    button.focus()
  }
  if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
    const fold = line.querySelector<HTMLElement>('[aria-expanded]')
    const opens = event.key === 'ArrowRight'
    if (at === 0 && fold && fold.getAttribute('aria-expanded') === String(!opens)) {
      event.preventDefault()
      fold.click()
      return
    }
    let next = opens ? cell.nextElementSibling : cell.previousElementSibling
    while (next && !next.querySelector('button'))
      next = opens ? next.nextElementSibling : next.previousElementSibling
    press(next)
    return
  }
  let body = line.closest('tbody')
  do {
    body = (
      event.key === 'ArrowDown' ? body?.nextElementSibling : body?.previousElementSibling
    ) as typeof body
  } while (body && !body.querySelector('tr')?.children[at]?.querySelector('button'))
  press(body?.querySelector('tr')?.children[at])
}
const arrows = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown']
</script>

<template>
  <table ref="root" class="ledger tally" @keydown="arrows.includes($event.key) && step($event)">
    <thead>
      <tr>
        <th class="stays">Asset</th>
        <th v-if="months" class="months">
          {{ months }}
          <span class="unit">last 12 months</span>
        </th>
        <th
          v-for="column in columns"
          :key="column.id"
          class="num"
          :title="column.formula"
          :aria-sort="sort === column.id ? (descending ? 'descending' : 'ascending') : undefined"
        >
          <button class="plain" @click="emit('sort', column.id)">
            {{ column.short }}<template v-if="sort === column.id">{{ descending ? ' ↓' : ' ↑' }}</template>
          </button>
          <span class="unit">{{ column.unitShown }}</span>
        </th>
      </tr>
    </thead>
    <tbody v-if="before" aria-hidden="true">
      <tr>
        <td class="gap" :style="{ height: `${before}px` }" />
      </tr>
    </tbody>
    <tbody
      v-for="line in places.flatMap((place) => (lines[place] ? [{ place, ...lines[place] }] : []))"
      :key="line.key"
      :ref="measure"
      :data-index="line.place"
    >
      <tr
        :class="[`depth-${line.depth}`, { rest: line.row.kind !== 'asset' }]"
        :data-test="
          line.row.kind === 'asset' ? `tally-${line.row.asset}` : `tally-${line.row.asset}-${line.row.kind}`
        "
      >
        <td class="stays">
          <div class="asset" :style="{ paddingLeft: `${line.depth * 15}px` }">
            <button
              v-if="line.row.has_children"
              class="plain fold"
              :aria-expanded="line.isOpen"
              :aria-label="line.isOpen ? `Close ${line.row.name}` : `Open ${line.row.name}`"
              @click="emit('toggle', line)"
            >
              <ChevronDown v-if="line.isOpen" :size="14" />
              <ChevronRight v-else :size="14" />
            </button>
            <span v-else class="fold" />
            <span v-if="line.row.kind !== 'asset'" class="quiet" :title="partTitles[line.row.kind]">{{
              partWords[line.row.kind]
            }}</span>
            <button
              v-else
              class="plain name"
              data-row
              :title="`Look at ${line.row.name} alone`"
              @click="change({ scope: line.row.asset })"
            >
              {{ line.row.name }}
            </button>
          </div>
          <span
            v-if="stood(line)"
            class="stood small quiet"
            :style="{ paddingLeft: `${line.depth * 15 + 15}px` }"
            >{{ stood(line) }}</span
          >
        </td>
        <td v-if="months" class="months"><Sparkline :values="line.row.months ?? []" /></td>
        <TallyCell
          v-for="column in columns"
          :key="column.id"
          :row="line.row"
          :column="column"
          :under="line.under"
          :beside="beside"
        />
      </tr>
    </tbody>
    <tbody v-if="after" aria-hidden="true">
      <tr>
        <td class="gap" :style="{ height: `${after}px` }" />
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
/* The name, and what stands above it, stay in sight when the figures are moved beside an open why. */
.stays {
  position: sticky;
  left: 0;
  background: var(--paper);
}

th.stays {
  z-index: 2;
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

.name {
  text-align: left;
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

.unit {
  display: block;
  font-weight: 400;
  font-size: 12px;
  min-height: 17px;
}

.months {
  width: 140px;
}

.gap {
  padding: 0;
  border: 0;
}

th .plain {
  font-weight: 600;
  text-align: right;
}
</style>
