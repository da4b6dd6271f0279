import type { Schemas } from '../api'

export type SubjectId = Schemas['SubjectId']
export type Subject = Schemas['SubjectDef']
export type ColumnDef = Schemas['ColumnDef']
export type Answer = Schemas['ListAnswer']
export type Cell = Schemas['Cell']
export type ListRow = Schemas['Row']
export type GroupRow = Schemas['GroupRow']
export type FilterAsked = Schemas['FilterAsked']
export type FigureAsked = Schemas['FigureAsked']
export type GroupAsked = Schemas['GroupAsked']
export type SortAsked = Schemas['SortAsked']

/** What is asked of a list. */
export type Asked = Partial<Schemas['Asked']>

/** What of it a person chooses, as the address and a kept view have it. */
export interface Chosen {
  filter?: FilterAsked[]
  group?: GroupAsked[]
  sort?: SortAsked[]
  columns?: string[]
  facets?: string[]
  /** A past instant, and by when what counts had been recorded. */
  as_of?: string
  known_at?: string
  /** A figure of the tally whose rows are asked for. */
  figure?: FigureAsked
}

/** In one order, so that the same is always said the same. */
const PARTS = ['filter', 'group', 'sort', 'columns', 'facets', 'as_of', 'known_at'] as const

/** What an address says was chosen; nothing where it says nothing that can be read. */
export function chosenOf(text: string): Chosen {
  if (!text) return {}
  try {
    const read: unknown = JSON.parse(text)
    return typeof read === 'object' && read !== null && !Array.isArray(read) ? read : {}
  } catch {
    return {}
  }
}

/** As an address has it: what was not chosen is left out. */
export function addressOf(chosen: Chosen): string {
  const parts = PARTS.flatMap((part) => (chosen[part]?.length ? [[part, chosen[part]]] : []))
  const said = chosen.figure ? [...parts, ['figure', chosen.figure]] : parts
  return said.length ? JSON.stringify(Object.fromEntries(said)) : ''
}

/** The values that a filter lets through of a column. */
export const valuesOf = (chosen: Chosen, column: string): string[] =>
  chosen.filter?.find((one) => one.column === column && one.is)?.is ?? []

/** The same with a value more, or less. */
export function withValue(chosen: Chosen, column: string, value: string): Chosen {
  const now = valuesOf(chosen, column)
  const next = now.includes(value) ? now.filter((one) => one !== value) : [...now, value]
  return withValues(chosen, column, next)
}

/** The same with these values of a column; all of them where there are none. */
export function withValues(chosen: Chosen, column: string, values: string[]): Chosen {
  const others = (chosen.filter ?? []).filter((one) => one.column !== column || !one.is)
  return { ...chosen, filter: values.length ? [...others, { column, is: values }] : others }
}

/** What the rows of a group have in common, as filters: its own value and those of the groups it is in. */
export function filtersOf(path: { column: string; group: GroupRow }[]): FilterAsked[] {
  return path.map(({ column, group }) => {
    if (typeof group.key === 'string' && group.until) return { column, from: group.key, to: group.until }
    return group.filter === '' ? { column, blank: true } : { column, is: [group.filter] }
  })
}

/** The list that rows of a figure stand in. */
export const subjectOf: Record<Schemas['RowKind'], SubjectId> = {
  entry: 'entries',
  downtime: 'downtime',
  failure: 'failures',
  work_order: 'work',
  alarm: 'alarms',
  cycle: 'cycles',
}
