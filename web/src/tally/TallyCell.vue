<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import type { Figure, TallyRow } from '../common/api'
import { figure } from '../common/format'
import { useAddress } from '../common/useAddress'
import { useTally } from '../common/useTally'
import { useWhy } from '../common/useWhy'
import type { Column } from './columns'

const props = defineProps<{
  row: TallyRow
  column: Column
  /** The rows it stands in, where alone it counts. */
  under: string
  /** The value before and the difference stand below it. */
  beside?: boolean
}>()
const { asked, open } = useWhy()
const { to } = useAddress()
const { along } = useTally()

const now = computed(() => props.row.figures[props.column.id])
const before = computed<Figure | undefined>(() => props.row.before[props.column.id])
const text = computed(() => figure(now.value, props.column))
const empty = computed(
  () => now.value?.value === 0 || (now.value?.value == null && now.value?.at_least == null),
)
const signed = (value: number) =>
  `${value > 0 ? '+' : '−'}${figure({ value: Math.abs(value) }, props.column)}`

/** How far it moved against the other period, as the server says it. */
const change = computed(() => {
  const moved = props.row.moved[props.column.id]
  if (!moved) return undefined
  const size = Math.abs(moved.by)
  const mark = moved.by > 0 ? '▲' : '▼'
  // Of almost nothing a percentage says nothing.
  const text = moved.from_little
    ? `${mark} from ${figure(before.value, props.column)}`
    : `${mark} ${size.toFixed(moved.in_points ? 1 : 0)}${moved.in_points ? '' : ' %'}`
  return { text, better: moved.better, units: signed(moved.units) }
})
/** What adds up can be taken apart. */
const apart = computed(
  () =>
    props.row.kind === 'asset' &&
    ['additive', 'union'].includes(props.column.roll_up) &&
    to('/tally/changed', { ...along.value, scope: props.row.asset, indicator: props.column.id }),
)
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
    <span v-if="now?.ninth != null" class="sub" title="nine of ten stay below">
      9 of 10 {{ figure({ value: now.ninth }, column) }}
    </span>
    <template v-if="beside && before?.value != null">
      <span class="sub" title="in the other period">{{ figure(before, column) }}</span>
      <span v-if="change" class="sub" title="the difference">{{ change.units }}</span>
    </template>
    <component
      :is="apart ? 'RouterLink' : 'span'"
      v-if="change"
      :to="apart || undefined"
      class="sub moved"
      :class="{ better: change.better === true, worse: change.better === false }"
      :title="apart ? 'What changed against the other period' : 'against the other period'"
      :data-test="`moved-${column.id}`"
    >
      {{ change.text }}
    </component>
  </td>
</template>

<style scoped>
.cell {
  line-height: 1.25;
}

.plain {
  min-width: 24px;
  min-height: 24px;
  text-align: right;
}

.plain:hover,
a.moved:hover {
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

.moved {
  text-decoration: none;
}

/* What is pressed is large enough to be met. */
a.moved {
  line-height: 24px;
}

.better {
  color: var(--better);
}

.worse {
  color: var(--worse);
}
</style>
