import { byName } from '../common/format'
import { rowKinds } from '../generated/words'
import type { Definition, TallyRow } from '../common/api'
import { installation } from '../common/installation'

/** An indicator as a column. */
export interface Column extends Definition {
  /** Its name where room is short. */
  short: string
  unitShown: string
}

/** The columns of the table, in their order, with names that fit. */
const SHORT: [Definition['id'], string][] = [
  ['cost_total', 'Cost'],
  ['cost_ytd', 'Year to date'],
  ['cost_life', 'Life'],
  ['unplanned_downtime', 'Unplanned'],
  ['availability', 'Available'],
  ['failures', 'Failures'],
  ['mtbf', 'MTBF'],
  ['mttr', 'MTTR'],
  ['open_work', 'Open work'],
  ['open_hours', 'To do'],
  ['open_without_estimate', 'No estimate'],
]

export function columns(catalogue: Definition[]): Column[] {
  const units = { money: installation.value.currency, hours: 'h', share: '', count: '' }
  return SHORT.flatMap(([id, short]) => {
    const definition = catalogue.find((one) => one.id === id)
    return definition ? [{ ...definition, short, unitShown: units[definition.unit] }] : []
  })
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
