import { describe, expect, it } from 'vitest'
import { verdict, verdictTogether } from './verdict'

const DAY = 86_400_000
const judged = (caught: number, missed: number, nuisance = 0, warningDays?: number, too_late = 0) => ({
  caught,
  too_late,
  missed,
  nuisance,
  median_warning_ms: warningDays === undefined ? null : warningDays * DAY,
})

describe('a verdict', () => {
  it.each([
    [judged(0, 0), 0, 'No failure came in the period; 0 nuisance warnings, 0 work orders.'],
    [judged(1, 0, 1, 35.9), 1, 'Catches the failure, 35 days before; 1 nuisance warning, 1 work order.'],
    [
      judged(2, 0, 0, 1),
      3,
      'Catches all 2 failures, 1 day before in the middle; 0 nuisance warnings, 3 work orders.',
    ],
    [judged(0, 1), 2, 'Misses the failure; 0 nuisance warnings, 2 work orders.'],
    [judged(0, 3, 1_200), 0, 'Misses all 3 failures; 1,200 nuisance warnings, 0 work orders.'],
    [
      judged(0, 0, 0, 0.5, 1),
      1,
      'Warns of the failure too late, 0 days before; 0 nuisance warnings, 1 work order.',
    ],
    [
      judged(1, 1, 0, 3, 2),
      0,
      'Catches 1 of 4 failures, warns of 2 too late, 3 days before; 0 nuisance warnings, 0 work orders.',
    ],
    [judged(1, 2, 0, 0.5), 0, 'Catches 1 of 3 failures, 0 days before; 0 nuisance warnings, 0 work orders.'],
  ])('of %j and %d orders', (view, work, words) => {
    expect(verdict(view, work)).toBe(words)
  })

  it('of a family counts what its meters come to together', () => {
    expect(verdictTogether({ ...judged(0, 1, 2), work: 1 })).toBe(
      'In this period they would have caught 0 of 1 failure; 2 nuisance warnings, 1 work order.',
    )
    expect(verdictTogether({ ...judged(0, 0), work: 23 })).toBe(
      'No failure came in this period; 0 nuisance warnings, 23 work orders.',
    )
  })
})
