import { describe, expect, it } from 'vitest'
import { type Ladder, type MeterDetail, Problem, type Rung } from '../common/api'
import { BOTTOM, LEFT, RIGHT, TOP, broken, rangeOf, valueAt, xOf, yOf } from './geometry'
import { emptyLadder, newRung, nextSeverity, sameLadder, shownBeside, tidy } from './ladder'

const meter = { last: { at: '2026-01-01T00:00:00Z', value: 10 } } as MeterDetail
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

  it('begins beyond the last reading, then beyond its worst rung', () => {
    expect(newRung(emptyLadder(), 'high', 'alert', meter)).toMatchObject({ setpoint: 12, deadband: 0.5 })
    expect(newRung(emptyLadder(), 'low', 'alert', meter)).toMatchObject({ setpoint: 8 })
    expect(newRung(ladder, 'high', 'serious', meter)).toMatchObject({ setpoint: 14.4, deadband: 0.6 })
  })

  it('offers the mildest severity that is free, notice last', () => {
    expect(nextSeverity(emptyLadder(), 'high')).toBe('alert')
    expect(nextSeverity(ladder, 'high')).toBe('serious')
    const all = { ...ladder, rungs: (['alert', 'serious', 'danger'] as const).map((one, n) => high(one, n)) }
    expect(nextSeverity(all, 'high')).toBe('notice')
    expect(nextSeverity({ ...all, rungs: [...all.rungs, high('notice', -1)] }, 'high')).toBeUndefined()
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
