import type { Schemas } from '../common/api'
import { duration, moneyShort, whole } from '../common/format'

/** An amount by what it is counted in: minor units, milliseconds, or a number. */
export function amount(value: number, unit: Schemas['RowUnit']): string {
  if (unit === 'money') return moneyShort(value)
  return unit === 'ms' ? duration(value) : whole(value)
}

/** The same with its sign. */
export const signed = (value: number, unit: Schemas['RowUnit']) =>
  value === 0 ? '0' : `${value > 0 ? '+' : '−'}${amount(Math.abs(value), unit)}`
