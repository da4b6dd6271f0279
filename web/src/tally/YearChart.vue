<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Definition } from '../common/api'
import { figure, months, unitOf } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import ProblemNote from '../common/ProblemNote.vue'
import { figures } from '../common/queries/tally'
import { useTally } from '../common/useTally'

/** One figure by month, a line a year, and the table under it. */
const props = defineProps<{ definition: Definition; years: string[] }>()
const { asked } = useTally()
const { data, error } = useQuery(() => {
  const [first, last] = [props.years[0], props.years.at(-1)]
  return {
    ...figures({
      ...asked.value,
      period: `${first}-01-01..${Number(last) + 1}-01-01`,
      by: 'month',
      indicators: props.definition.id,
    }),
    enabled: first !== undefined,
    placeholderData: keepPreviousData,
  }
})
const name = computed(() => data.value?.rows[0]?.name ?? '')
const values = computed(() => {
  const all = new Map(
    (data.value?.rows ?? []).map((row) => [row.month ?? '', row.figures[props.definition.id]?.value]),
  )
  return props.years.map((year) => ({
    year,
    // A month that has not begun has no figure; one in which nothing happened has 0.
    values: Array.from(
      { length: 12 },
      (_, month) => all.get(`${year}-${String(month + 1).padStart(2, '0')}`) ?? undefined,
    ),
  }))
})
const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)
const HEIGHT = 230
const [LEFT, RIGHT, TOP, BOTTOM] = [64, 54, 10, 22]
const most = computed(() =>
  Math.max(1e-9, ...values.value.flatMap((one) => one.values.map((value) => value ?? 0))),
)
const x = (month: number) => LEFT + (month / 11) * Math.max(1, width.value - LEFT - RIGHT)
const y = (value: number) => TOP + (1 - value / most.value) * (HEIGHT - TOP - BOTTOM)
const tones = [
  'var(--ink-3)',
  'var(--notice)',
  'var(--other)',
  'var(--alert)',
  'var(--better)',
  'var(--accent)',
]
const lines = computed(() =>
  values.value.map(({ year, values: all }, place) => {
    const points = all.flatMap((value, month) => (value === undefined ? [] : [{ month, value }]))
    return {
      year,
      points,
      tone: tones[tones.length - values.value.length + place] ?? 'var(--accent)',
      isLast: place === values.value.length - 1,
      path: points.map(({ month, value }) => `${x(month).toFixed(1)},${y(value).toFixed(1)}`).join(' '),
      end: points.at(-1),
    }
  }),
)
/** Where each year is named: beside its last point, and clear of the others. */
const labels = computed(() => {
  const placed: { month: number; y: number }[] = []
  return lines.value.map(({ end }) => {
    if (!end) return undefined
    let at = y(end.value) + 4
    while (placed.some((other) => other.month === end.month && Math.abs(other.y - at) < 13)) at += 13
    placed.push({ month: end.month, y: at })
    return { x: x(end.month) + 8, y: at }
  })
})
const guides = computed(() =>
  [0, 0.5, 1].map((share) => ({ value: share * most.value, y: y(share * most.value) })),
)
const text = (value: number | undefined) => (value === undefined ? '' : figure({ value }, props.definition))
type Line = (typeof values.value)[number]
const names = months('short')
const columns = computed<LedgerColumn<Line>[]>(() => [
  { key: 'year', name: 'Year', text: (row) => row.year, lead: true },
  ...names.map((month, place) => ({
    key: `m${place}`,
    name: month,
    num: true,
    text: (row: Line) => text(row.values[place]),
    by: (row: Line) => row.values[place],
  })),
  {
    key: 'sum',
    name: 'Year',
    num: true,
    text: (row: Line) => text(row.values.reduce<number>((sum, value) => sum + (value ?? 0), 0)),
    by: (row: Line) => row.values.reduce<number>((sum, value) => sum + (value ?? 0), 0),
  },
])
const title = computed(
  () => `${props.definition.name}${unitOf(props.definition) ? `, ${unitOf(props.definition)}` : ''}`,
)

/** Hands a file to whoever looks. */
function save(content: BlobPart, type: string, ending: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = `${props.definition.id}-by-year.${ending}`
  link.click()
  URL.revokeObjectURL(link.href)
}
function csv() {
  const rows = [
    ['year', ...names],
    ...values.value.map((row) => [row.year, ...row.values.map((value) => value ?? '')]),
  ]
  save(rows.map((row) => row.join(',')).join('\r\n'), 'text/csv', 'csv')
}
/** The drawing by itself, with the colours of the page in it. */
function picture() {
  const drawn = box.value?.querySelector('svg')
  if (!drawn) return
  const copy = drawn.cloneNode(true) as SVGElement
  const [from, to] = [drawn.querySelectorAll('*'), copy.querySelectorAll('*')]
  from.forEach((one, place) => {
    const { stroke, fill, font } = getComputedStyle(one)
    ;(to[place] as SVGElement).setAttribute('style', `stroke: ${stroke}; fill: ${fill}; font: ${font}`)
  })
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  save(new XMLSerializer().serializeToString(copy), 'image/svg+xml', 'svg')
}
</script>

<template>
  <section class="chart" :data-test="`years-${definition.id}`">
    <h2 class="ruled">
      {{ title }} <span class="quiet">{{ name }}</span>
      <button class="act no-print" @click="csv">CSV</button>
      <button class="act no-print picture" @click="picture">Picture</button>
    </h2>
    <ProblemNote :error="error" />
    <div ref="box">
      <svg
        :viewBox="`0 0 ${Math.max(width, 300)} ${HEIGHT}`"
        :height="HEIGHT"
        role="img"
        :aria-label="`${title} by month`"
      >
        <g v-for="guide in guides" :key="guide.value">
          <line class="guide" :x1="LEFT" :x2="width - RIGHT" :y1="guide.y" :y2="guide.y" />
          <text class="says end" :x="LEFT - 8" :y="guide.y + 4">{{ text(guide.value) }}</text>
        </g>
        <text v-for="(month, place) in names" :key="month" class="says" :x="x(place)" :y="HEIGHT - 6">
          {{ month }}
        </text>
        <g v-for="(line, place) in lines" :key="line.year">
          <polyline
            :points="line.path"
            :style="{ stroke: line.tone, strokeWidth: line.isLast ? 2.6 : 1.5 }"
          />
          <circle
            v-for="point in line.points"
            :key="point.month"
            :cx="x(point.month)"
            :cy="y(point.value)"
            r="2.6"
            :style="{ fill: line.tone }"
          >
            <title>{{ names[point.month] }} {{ line.year }}: {{ text(point.value) }}</title>
          </circle>
          <text
            v-if="labels[place]"
            class="year"
            :class="{ last: line.isLast }"
            :x="labels[place]?.x"
            :y="labels[place]?.y"
            :style="{ fill: line.tone }"
          >
            {{ line.year }}
          </text>
        </g>
      </svg>
    </div>
    <LedgerTable
      :columns="columns"
      :rows="values"
      :key-of="(row) => row.year"
      :label="`${title} by year`"
      test="year-row"
    />
  </section>
</template>

<style scoped>
.chart {
  margin: 14px 0 26px;
  break-inside: avoid;
}

svg {
  display: block;
  width: 100%;
}

polyline {
  fill: none;
}

.guide {
  stroke: var(--rule);
}

.says {
  font: 12px var(--sans);
  fill: var(--ink-2);
  text-anchor: middle;
}

.end {
  text-anchor: end;
}

.year {
  font: 12px var(--sans);
}

.year.last {
  font-weight: 600;
}

.picture {
  margin-left: 0 !important;
}
</style>
