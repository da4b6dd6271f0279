import { expect, test } from 'vitest'
import { monthsOf } from './weeks'

test('A month begins with its first Monday', () => {
  const mondays = ['2026-03-30', '2026-04-06', '2026-04-13', '2026-04-20', '2026-04-27', '2026-05-04']
  // A single week of March has no room for its name before April's.
  expect(monthsOf(mondays)).toEqual([
    { name: 'Apr', column: 2 },
    { name: 'May', column: 6 },
  ])
  expect(monthsOf(['2026-03-16', '2026-03-23', ...mondays])[0]).toEqual({ name: 'Mar', column: 1 })
})
