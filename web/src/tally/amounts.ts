import type { Schemas } from '../common/api'
import { duration, moneyShort, whole } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'

/** An amount by what it is counted in: minor units, milliseconds, or a number. */
export function amount(value: number, unit: Schemas['RowUnit']): string {
  if (unit === 'money') return moneyShort(value)
  return unit === 'ms' ? duration(value) : whole(value)
}

/** The same with its sign. */
export const signed = (value: number, unit: Schemas['RowUnit']) =>
  value === 0 ? '0' : `${value > 0 ? '+' : '−'}${amount(Math.abs(value), unit)}`

/** An amount of money in both periods, and how far it moved. */
export function bothPeriods<T extends { now: number; before: number }>(): LedgerColumn<T>[] {
  const columns: [string, string, (row: T) => number, (value: number) => string][] = [
    ['now', 'Now', (row) => row.now, moneyShort],
    ['before', 'Before', (row) => row.before, moneyShort],
    ['more', 'Difference', (row) => row.now - row.before, (value) => signed(value, 'money')],
  ]
  return columns.map(([key, name, by, says]) => ({ key, name, by, text: (row) => says(by(row)), num: true }))
}
