<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import type { Figure, TallyRow } from '../common/api'
import { figure } from '../common/format'
import { useWhy } from '../common/useWhy'
import type { Column } from './columns'

const props = defineProps<{
  row: TallyRow
  siblings: TallyRow[]
  column: Column
  /** The rows it stands in, where alone it counts. */
  under: string
}>()
const { asked, open } = useWhy()

const now = computed(() => props.row.figures[props.column.id])
const before = computed(() => props.row.before[props.column.id])
const text = computed(() => figure(now.value, props.column))
const empty = computed(
  () => now.value?.value === 0 || (now.value?.value == null && now.value?.at_least == null),
)

/** How far it moved against the period before, and whether that is better. */
const change = computed(() => {
  const [value, old] = [now.value?.value, before.value?.value]
  // A sum from the beginning only ever grows.
  if (props.column.id === 'cost_life') return undefined
  if (value == null || old == null || old === 0 || value === old) return undefined
  const share = (value - old) / Math.abs(old)
  const points = props.column.unit === 'share'
  const size = points ? Math.abs(value - old) * 100 : Math.abs(share) * 100
  if (size < (points ? 0.05 : 0.5)) return undefined
  const rose = value > old
  const better =
    props.column.direction === 'neither' ? undefined : rose === (props.column.direction === 'higher')
  const digits = size > 999 ? '> 999' : size.toFixed(points ? 1 : 0)
  return { text: `${rose ? '▲' : '▼'} ${digits}${points ? '' : ' %'}`, better }
})

/** How much it stands out among its siblings, 0 to 1: its share of the greatest, where there are several. */
const heat = computed(() => {
  if (props.siblings.length < 3 || props.column.direction !== 'lower') return 0
  const size = (one: Figure | undefined) => one?.value ?? 0
  const most = Math.max(...props.siblings.map((row) => size(row.figures[props.column.id])))
  const share = most > 0 ? size(now.value) / most : 0
  return share > 0.35 ? share : 0
})
/** The row, as its why is asked for. */
const row = computed(() => ({
  asset: props.row.asset,
  under: props.under || undefined,
  part: props.row.kind === 'asset' ? undefined : props.row.kind,
}))
const here = computed(() => {
  const { indicator, ...of } = asked.value ?? {}
  return indicator === props.column.id && JSON.stringify(of) === JSON.stringify(row.value)
})
const cell = useTemplateRef<HTMLElement>('cell')
// What is being explained stays in sight beside its why.
watch([here, cell], () => here.value && cell.value?.scrollIntoView({ block: 'nearest', inline: 'nearest' }), {
  flush: 'post',
})
</script>

<template>
  <td
    ref="cell"
    class="num cell"
    :style="heat ? { background: `rgb(var(--heat) / ${heat * 0.2})` } : undefined"
  >
    <button
      v-if="now && props.row.asset"
      class="plain"
      :class="{ empty, here }"
      :title="`Why: ${column.name} of ${props.row.name}`"
      :data-test="`figure-${column.id}`"
      @click="open(column.id, row)"
    >
      {{ text }}
    </button>
    <template v-else-if="now">{{ text }}</template>
    <span v-if="now?.provisional" class="sub" title="of it provisional: work that is not closed">
      {{ figure({ value: now.provisional }, column) }} prov.
    </span>
    <span
      v-if="change"
      class="sub"
      :class="{ better: change.better === true, worse: change.better === false }"
      title="against the period before"
    >
      {{ change.text }}
    </span>
  </td>
</template>

<style scoped>
.cell {
  line-height: 1.25;
}

.plain {
  text-align: right;
}

.plain:hover {
  text-decoration: underline;
}

.empty {
  color: var(--ink-3);
}

.here {
  color: var(--accent);
  font-weight: 600;
}

.sub {
  display: block;
  font-size: 12px;
  color: var(--ink-2);
}

.better {
  color: var(--better);
}

.worse {
  color: var(--worse);
}
</style>
