import { describe, expect, it } from 'vitest'
import type { FinderPoint, Ladder } from '../common/api'
import { FLOOR, LEFT, TOP, WIDTH, columnsOf, greatest, placeOf, shapeOf } from './finder'

const point = (setpoint: number, given: Partial<FinderPoint> = {}): FinderPoint => ({
  setpoint,
  caught: 0,
  too_late: 0,
  warnings: 0,
  missed: 0,
  nuisance: 0,
  averted: 0,
  work: 0,
  median_warning_ms: null,
  says: '',
  ...given,
})
const DAY = 86_400_000

describe('a curve', () => {
  const points = [
    point(2, { nuisance: 8, work: 4, median_warning_ms: 20 * DAY, caught: 1 }),
    point(3, { work: 2, median_warning_ms: 10 * DAY, caught: 1 }),
    point(4, { missed: 1 }),
  ]

  it('draws counts by one scale and warnings by another', () => {
    expect(greatest(points)).toEqual({ most: 8, longest: 20 })
    const columns = columnsOf(points)
    const half = FLOOR - (FLOOR - TOP) / 2
    expect(columns.map((column) => [column.nuisance, column.work, column.warning])).toEqual([
      [TOP, half, TOP],
      [FLOOR, FLOOR - (FLOOR - TOP) / 4, half],
      [FLOOR, FLOOR, undefined],
    ])
    expect([columns[0]!.x, columns[2]!.middle + columns[0]!.middle - LEFT]).toEqual([LEFT, WIDTH])
  })

  it('knows where a setpoint stands on it, or that it does not', () => {
    expect(placeOf(2, points)).toBeCloseTo(columnsOf(points)[0]!.middle, 9)
    expect(placeOf(3.5, points)).toBeCloseTo(LEFT + (2 / 3) * (WIDTH - LEFT), 9)
    expect([placeOf(1.9, points), placeOf(4.1, points), placeOf(null, points), placeOf(2, [])]).toEqual(
      Array(4).fill(undefined),
    )
  })

  it('changes with the rules of its ladder, not with its own setpoint or the other rungs', () => {
    const rung = (setpoint: number) => ({ side: 'high', severity: 'alert', setpoint })
    const ladder = (interval: number, own: number, other: number) =>
      ({ raise_interval_seconds: interval, rungs: [rung(own), rung(other)] }) as unknown as Ladder
    expect(shapeOf(ladder(0, 5, 9), 0)).toBe(shapeOf(ladder(0, 6, 8), 0))
    expect(shapeOf(ladder(0, 5, 9), 0)).not.toBe(shapeOf(ladder(60, 5, 9), 0))
  })
})
