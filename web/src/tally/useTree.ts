import { keepPreviousData, useQueries, useQuery } from '@tanstack/vue-query'
import { type MaybeRefOrGetter, type Ref, computed, ref, toValue } from 'vue'
import type { TallyRow } from '../common/api'
import { figures } from '../common/queries/tally'
import { FROM_ROOT, wayBelow } from './way'

type Question = Parameters<typeof figures>[0]

/** A row as it stands in the table. */
export interface Line {
  key: string
  row: TallyRow
  depth: number
  /** The rows it stands in, where alone it counts. */
  under: string
  way: string
  isOpen: boolean
}

/** The tree as lines, of which those below an open row are asked for with it. */
export function useTree(
  asked: MaybeRefOrGetter<NonNullable<Question>>,
  order: Ref<(a: TallyRow, b: TallyRow) => number>,
) {
  /** Ways of rows that are not as they come: the scope's own row stands open, the others when pressed. */
  const turned = ref(new Set<string>())
  const base = useQuery(() => ({
    ...figures({ ...toValue(asked), depth: 1 }),
    placeholderData: keepPreviousData,
  }))
  const first = computed(() => (toValue(asked).scope ? '' : FROM_ROOT))
  /** What is asked for by itself: open rows that did not come with those below them. */
  const apart = computed(() => [...turned.value].filter((way) => !tops.value.has(way)))
  const tops = computed(
    () =>
      new Set(
        (base.data.value?.rows ?? [])
          .filter((row) => row.depth === 0)
          .map((row) => wayBelow(first.value, row.asset)),
      ),
  )
  const below = useQueries({
    queries: computed(() =>
      apart.value.map((way) => {
        const at = way.lastIndexOf('/')
        const [under, scope] = at < 0 ? ['', way] : [way.slice(0, at) || FROM_ROOT, way.slice(at + 1)]
        return {
          ...figures({ ...toValue(asked), scope, under: under || undefined, depth: 1 }),
          placeholderData: keepPreviousData,
        }
      }),
    ),
  })
  const loaded = computed(
    () => new Map(apart.value.map((way, place) => [way, below.value[place]?.data?.rows ?? []])),
  )
  const lines = computed(() => {
    const all: Line[] = []
    const rows = base.data.value?.rows ?? []
    const add = (row: TallyRow, depth: number, under: string) => {
      const way = wayBelow(under, row.asset)
      const isOpen = row.kind === 'asset' && (depth === 0) !== turned.value.has(way)
      all.push({ key: `${way}${row.kind}`, row, depth, under, way, isOpen })
      if (!isOpen) return
      const children =
        depth === 0
          ? rows.filter((other) => other.parent === row.asset && other.depth === 1)
          : (loaded.value.get(way) ?? []).filter((other) => other.depth === 1)
      for (const child of [...children].sort(order.value))
        add(child, depth + 1, child.kind === 'asset' ? way : under)
    }
    for (const row of rows.filter((row) => row.depth === 0)) add(row, 0, first.value)
    return all
  })
  function toggle(line: Line) {
    const next = new Set(turned.value)
    if (!next.delete(line.way)) next.add(line.way)
    turned.value = next
  }
  return { base, lines, toggle }
}
