<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import type { TallyRow } from '../common/api'
import { figure } from '../common/format'
import { useWhy } from '../common/useWhy'
import type { Column } from './columns'

const props = defineProps<{
  row: TallyRow
  column: Column
  /** The rows it stands in, where alone it counts. */
  under: string
}>()
const { asked, open } = useWhy()

const now = computed(() => props.row.figures[props.column.id])
const text = computed(() => figure(now.value, props.column))
const empty = computed(
  () => now.value?.value === 0 || (now.value?.value == null && now.value?.at_least == null),
)

/** How far it moved against the period before, as the server says it. */
const change = computed(() => {
  const moved = props.row.moved[props.column.id]
  if (!moved) return undefined
  const size = Math.abs(moved.by)
  const digits = size > 999 ? '> 999' : size.toFixed(moved.in_points ? 1 : 0)
  return { text: `${moved.by > 0 ? '▲' : '▼'} ${digits}${moved.in_points ? '' : ' %'}`, better: moved.better }
})
/** How much it stands out among its siblings. */
const heat = computed(() => props.row.heat[props.column.id] ?? 0)
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
