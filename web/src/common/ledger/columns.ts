import { byName } from '../format'

/** What a row is ordered by in one column. */
export type OrderValue = string | number | boolean | null | undefined

/** One column of a ledger. Its cells are a slot of the column's key, or `text` alone. */
export interface LedgerColumn<Row> {
  key: string
  /** In its head. */
  name: string
  /** In its head, below the name. */
  unit?: string
  /** What its head explains when it is pointed at. */
  hint?: string
  /** Figures, to the right. */
  num?: boolean
  /** The head is only heard: what stands in the cells speaks for itself. */
  unseen?: boolean
  /** The cells in words, where no slot has more to show. */
  text?: (row: Row) => string
  /** What rows are ordered by here; `text` where it is left out. `null` for a column that nothing is ordered by. */
  by?: ((row: Row) => OrderValue) | null
  /** Rows come in order from the server, which can order by this column. */
  sorts?: boolean
  /** What the row is called by: the first line of its card on a phone. */
  lead?: boolean
  nowrap?: boolean
  /** Not on paper. */
  screenOnly?: boolean
  /** Not on a phone's card. */
  wideOnly?: boolean
  width?: string
}

/** By which column rows are ordered. */
export interface LedgerOrder {
  key: string
  descending: boolean
}

/** Whether rows can be ordered by a column; where the server orders them, by those that it says. */
export const canOrder = <Row>(column: LedgerColumn<Row>, served: boolean) =>
  served ? column.sorts === true : column.by !== null && (column.by ?? column.text) !== undefined

const absent = (value: OrderValue) => value === null || value === undefined || value === ''

/** Two rows by a column, ascending; a text as people order names. */
export function compare(one: OrderValue, other: OrderValue): number {
  if (typeof one === 'string' && typeof other === 'string') return byName(one, other)
  return Number(one) - Number(other)
}

/** The value of a row in a column; nothing for an absent one, which comes last in either order. */
export function valueOf<Row>(column: LedgerColumn<Row>, row: Row): OrderValue {
  const value = (column.by ?? column.text)?.(row)
  return absent(value) ? undefined : value
}
