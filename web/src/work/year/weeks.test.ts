import { expect, test } from 'vitest'
import { monthsOf, movesOf } from './weeks'

test('A month begins with its first Monday', () => {
  const mondays = ['2026-03-30', '2026-04-06', '2026-04-13', '2026-04-20', '2026-04-27', '2026-05-04']
  // A single week of March has no room for its name before April's.
  expect(monthsOf(mondays)).toEqual([
    { name: 'Apr', column: 2 },
    { name: 'May', column: 6 },
  ])
  expect(monthsOf(['2026-03-16', '2026-03-23', ...mondays])[0]).toEqual({ name: 'Mar', column: 1 })
})

test('Later cycles go along by as many weeks, those that may', () => {
  const cycle = (number: number, week: number, weeks: number[]) => ({
    number,
    week,
    places: Object.fromEntries(weeks.map((one) => [String(one), `day of ${one}`])),
  })
  const cycles = [
    cycle(1, 3, [3]),
    cycle(2, 10, [9, 10, 11, 12]),
    cycle(3, 17, [18, 19]),
    cycle(4, 24, [24, 25]),
  ]
  const plan = { code: 'P', asset: { code: 'A' }, cycles } as never
  const of = (number: number, to: string) => ({ plan: 'P', asset: 'A', number, to })
  expect(movesOf(plan, cycles[1] as never, 'day of 12', false)).toEqual([of(2, 'day of 12')])
  expect(movesOf(plan, cycles[1] as never, 'day of 12', true)).toEqual([
    of(2, 'day of 12'),
    of(3, 'day of 19'),
  ])
})
