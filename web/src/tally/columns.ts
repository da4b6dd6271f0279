import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { byName, unitOf } from '../common/format'
import { rowKinds } from '../generated/words'
import type { Definition, TallyRow } from '../common/api'
import { useAddress } from '../common/useAddress'

/** An indicator as a column. */
export interface Column extends Definition {
  unitShown: string
}

/** The indicators that a look at figures shows without their being chosen. */
export const shownBy = (catalogue: Definition[] | undefined, look: Definition['looks'][number]) =>
  (catalogue ?? []).filter((one) => one.looks.includes(look))

/** The chosen indicators in their order. */
export function columns(catalogue: Definition[], ids: string[]): Column[] {
  return ids.flatMap((id) => {
    const definition = catalogue.find((one) => one.id === id)
    return definition ? [{ ...definition, unitShown: unitOf(definition) }] : []
  })
}

/** Which indicators are chosen: by the link, else as they were last. */
export function useColumns(catalogue: () => Definition[] | undefined) {
  const { read, change } = useAddress()
  const kept = useLocalStorage<string[]>('tally-columns', [])
  const ids = computed(() => {
    const named = read('columns').split(',').filter(Boolean)
    if (named.length) return named
    return kept.value.length ? kept.value : shownBy(catalogue(), 'figures').map((one) => one.id)
  })
  function choose(next: string[]) {
    kept.value = next
    void change({ columns: next.join(',') })
  }
  return { ids, choose }
}

/** Orders rows of one parent: by an indicator, those without a base last, or by name. */
export function sorter(id: string, descending: boolean) {
  const value = (row: TallyRow) => row.figures[id]?.value ?? row.figures[id]?.at_least ?? null
  return (a: TallyRow, b: TallyRow) => {
    // The rest of a parent stands below its children.
    if (a.kind !== b.kind) return rowKinds.indexOf(a.kind) - rowKinds.indexOf(b.kind)
    if (!id) return byName(a.name, b.name)
    const [left, right] = [value(a), value(b)]
    if (left == null || right == null) return Number(left == null) - Number(right == null)
    return descending ? right - left : left - right
  }
}
