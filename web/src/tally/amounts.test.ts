import { describe, expect, it } from 'vitest'
import { amount, bothPeriods, signed } from './amounts'

describe('amounts of what is taken apart', () => {
  it('are told by what they are counted in', () => {
    expect(amount(123_456, 'money')).toBe('1,235')
    expect(amount(5_400_000, 'ms')).toBe('1 h 30')
    expect(amount(1_234, 'count')).toBe('1,234')
  })

  it('say which way they went', () => {
    expect([signed(200, 'money'), signed(-200, 'money'), signed(0, 'money')]).toEqual(['+2', '−2', '0'])
    expect(signed(-3_600_000, 'ms')).toBe('−1 h 00')
  })

  it('stand in both periods with the difference', () => {
    const row = { now: 100_000, before: 130_000 }
    expect(bothPeriods().map((column) => column.text?.(row))).toEqual(['1,000', '1,300', '−300'])
    expect(bothPeriods().map((column) => column.by?.(row))).toEqual([100_000, 130_000, -30_000])
  })
})
