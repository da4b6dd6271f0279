import { describe, expect, it } from 'vitest'
import { type Ladder, Problem, type Rung } from '../common/api'
import { BOTTOM, LEFT, RIGHT, TOP, broken, rangeOf, valueAt, xOf, yOf } from '../common/chart/geometry'
import { emptyLadder, moveRung, sameLadder, shownBeside, tidy } from './ladder'

const high = (severity: Rung['severity'], setpoint: number) =>
  ({ side: 'high', severity, setpoint, response: { kind: 'raise' } }) as Rung

describe('a drawing', () => {
  const range = { low: 0, high: 200 }

  it('puts the range between its margins', () => {
    expect([yOf(200, range, 330), yOf(0, range, 330)]).toEqual([TOP, 330 - BOTTOM])
    expect([xOf(0, { from: 0, to: 10 }, 600), xOf(10, { from: 0, to: 10 }, 600)]).toEqual([LEFT, 600 - RIGHT])
    expect(xOf(99, { from: 0, to: 10 }, 600)).toBe(600 - RIGHT)
  })

  it.each([0, 3.3, 150, 200])('finds the value %d again where it drew it', (value) => {
    expect(valueAt(yOf(value, range, 330), range, 330)).toBeCloseTo(value, 9)
  })

  it.each([
    [[], { low: 0, high: 1 }],
    [[1, 13], { low: 0, high: 14 }],
    [[5], { low: 4.4, high: 5.6 }],
    [[-40, 160], { low: -60, high: 180 }],
  ])('has room around %j', (values, expected) => {
    const { low, high: top } = rangeOf(values)
    expect([low, top].map((one) => Number(one.toFixed(6)))).toEqual([expected.low, expected.high])
    values.forEach((value) => expect(low <= value && value <= top).toBe(true))
  })
})

describe('a line', () => {
  const every = (step: number, from: number, count: number) =>
    Array.from({ length: count }, (_, n): [number, number] => [from + n * step, 1])
  const breaks = (points: [number, number][]) => broken(points).filter(([, value]) => value === null)

  it('ends where readings stay away for long, just after the last one', () => {
    expect(breaks([...every(1, 0, 200), ...every(1, 500, 200)])).toEqual([[200, null]])
  })

  it('goes on where readings are rare but regular, or hardly late', () => {
    expect(breaks(every(30, 0, 12))).toEqual([])
    expect(breaks([...every(1, 0, 200), ...every(1, 205, 200)])).toEqual([])
    expect([breaks([]), breaks([[5, 1]])]).toEqual([[], []])
  })
})

describe('a ladder', () => {
  const ladder: Ladder = { ...emptyLadder(), rungs: [high('alert', 12)] }

  it('shows errors of its rungs beside them, all others below', () => {
    const fields = ['rungs[1].setpoint', 'reason', 'suspended_while.meter'].map((field) => ({
      field,
      reason: 'x',
    }))
    expect(shownBeside(new Problem(422, 'x', fields))).toEqual(['rungs[1].setpoint', 'suspended_while.meter'])
    expect(shownBeside()).toEqual([])
  })

  it('moves a rung with its reset value', () => {
    const rung = { ...high('alert', 12), reset: 10.5 }
    moveRung(rung, 13.1)
    expect([rung.setpoint, rung.reset]).toEqual([13.1, 11.6])
    const plain = high('alert', 12)
    moveRung(plain, 3)
    expect([plain.setpoint, plain.reset]).toEqual([3, undefined])
  })

  it('is the same when everything that can be edited is', () => {
    expect(sameLadder(ladder, structuredClone(ladder))).toBe(true)
    expect(sameLadder(ladder, { ...ladder, raise_interval_seconds: 60 })).toBe(false)
    expect(sameLadder(ladder, { ...ladder, rungs: [high('alert', 12.1)] })).toBe(false)
  })

  it('takes three significant digits from a drag', () => {
    expect([tidy(4.0049), tidy(123_456), tidy(0.012349)]).toEqual([4, 123_000, 0.0123])
  })
})
