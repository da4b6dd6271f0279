import type { Schemas } from '../api'
import { date, dateTime, hours, inWords, money, monthOf, plain, whole, yearOf } from '../format'
import type { Cell, ColumnDef } from './asked'

/** A word of the API as people read it. */
export const wordOf = inWords

/** Figures by what their column holds. */
const figures: Partial<Record<Schemas['Holds'], (value: number) => string>> = {
  count: whole,
  money,
  hours,
  days: (value) => plain(Math.round(value * 10) / 10),
  ratio: plain,
}

/** Figures stand to the right. */
export const isFigure = (holds: Schemas['Holds']) => holds in figures

/** A cell as it is read. */
export function textOf(cell: Cell, holds: Schemas['Holds']): string {
  if (cell === null || cell === undefined) return ''
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no'
  if (typeof cell === 'object') return cell.name
  if (typeof cell === 'string') {
    if (holds === 'instant') return dateTime(cell)
    return holds === 'word' ? wordOf(cell) : cell
  }
  return (figures[holds] ?? String)(cell)
}

/** What a group's rows have in common, as it is read. */
export function groupText(cell: Cell, holds: Schemas['Holds'], by?: Schemas['Step'] | null): string {
  if (cell === null || cell === undefined) return 'none'
  if (holds !== 'instant' || typeof cell !== 'string') return textOf(cell, holds) || 'none'
  if (by === 'day') return date(cell)
  if (by === 'week') return `week of ${date(cell)}`
  return by === 'year' ? yearOf(cell) : monthOf(cell)
}

/** The unit of a column's figures, for its head. */
export function unitOf(column: ColumnDef, currency: string): string | undefined {
  if (column.holds === 'money') return currency
  if (column.holds === 'hours') return 'h'
  return column.holds === 'days' ? 'd' : undefined
}

/** A count as it stands in a heading. */
export const counted = (count: number, { name, one }: { name: string; one: string }) =>
  `${whole(count)} ${(count === 1 ? one : name).toLowerCase()}`
