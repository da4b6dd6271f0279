import { describe, expect, it } from 'vitest'
import type { Definition, TallyRow } from '../common/api'
import { columns, sorter } from './columns'

const row = (name: string, value: number | null, at_least: number | null = null) =>
  ({ name, figures: { mtbf: { value, at_least } } }) as unknown as TallyRow

describe('the tally', () => {
  it('shows the indicators that are chosen, in that order, each with its unit', () => {
    const catalogue = ['mttr', 'cost_tool', 'cost_total'].map(
      (id) => ({ id, short: id, unit: id === 'mttr' ? 'hours' : 'money' }) as Definition,
    )
    const shown = columns(catalogue, ['cost_total', 'gone', 'mttr'])
    expect(shown.map((column) => [column.short, column.unitShown])).toEqual([
      ['cost_total', 'EUR'],
      ['mttr', 'h'],
    ])
  })

  it('sorts by figure with those without a base last, whichever way, or by name as people count', () => {
    const rows = [row('Tower 10', 5), row('Tower 9', null), row('Tower 2', null, 7)]
    const names = (id: string, descending: boolean) =>
      [...rows].sort(sorter(id, descending)).map((one) => one.name)
    expect(names('mtbf', true)).toEqual(['Tower 2', 'Tower 10', 'Tower 9'])
    expect(names('mtbf', false)).toEqual(['Tower 10', 'Tower 2', 'Tower 9'])
    expect(names('', false)).toEqual(['Tower 2', 'Tower 9', 'Tower 10'])
  })
})
