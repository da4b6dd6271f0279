import { date } from '../common/format'
import type { Column } from './kinds'

/** A cell as it is read: instants as dates, all else as kept. */
export function shown(column: Column, text: string): string {
  if (!text) return ''
  if (column.form.kind === 'instant') return date(text)
  if (column.form.kind === 'number' || column.form.kind === 'money') {
    const [whole = '', decimals] = text.split('.')
    const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f')
    return decimals === undefined ? grouped : `${grouped}.${decimals}`
  }
  return text
}
