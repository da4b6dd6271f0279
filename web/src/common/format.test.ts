import { afterEach, describe, expect, it } from 'vitest'
import {
  ago,
  date,
  dateTime,
  duration,
  evenly,
  figure,
  fromLocal,
  hours,
  inShort,
  money,
  moneyShort,
  plain,
  reading,
  toLocal,
  unit,
} from './format'
import { installation } from './installation'

const first = installation.value
afterEach(() => {
  installation.value = first
})
function at(time_zone: string, minor_digits = 2) {
  installation.value = { ...first, time_zone, minor_digits }
}

it.each([
  [
    [0.3319, 0.3167, 0.354],
    ['0.332', '0.317', '0.354'],
  ],
  [
    [12.34, -1.5],
    ['12.3', '-1.5'],
  ],
  [
    [1234, 0],
    ['1,234', '0'],
  ],
  [[0], ['0']],
])('figures %j of a column line up', (values, expected) => {
  expect(values.map(evenly(values))).toEqual(expected)
})

describe('money', () => {
  it('shows all digits of the currency, or whole units in tables', () => {
    expect(money(123_456_789)).toBe('1,234,567.89')
    expect(moneyShort(123_456_789)).toBe('1,234,568')
    expect(money(-5)).toBe('-0.05')
  })

  it('follows a currency without minor units', () => {
    at('UTC', 0)
    expect(money(1_234)).toBe('1,234')
  })
})

// As CLDR has them (from memory): German groups by points, American dates begin with the month.
it.each([
  ['de-DE', '1.234,50', '3. Feb. 2026'],
  ['en-US', '1,234.50', 'Feb 3, 2026'],
])('numbers and dates are written as in %s', (locale, amount, day) => {
  installation.value = { ...first, locale }
  expect(money(123_450)).toBe(amount)
  expect(date('2026-02-03T12:00:00Z')).toBe(day)
})

describe('times', () => {
  // Vienna is an hour ahead of UTC in winter and two in summer.
  it('are those of the installation’s zone', () => {
    at('Europe/Vienna')
    expect(dateTime('2026-01-31T23:30:00Z')).toBe('1 Feb 2026, 00:30')
    expect(date('2026-06-30T22:00:00Z')).toBe('1 Jul 2026')
  })

  it.each(['2026-01-15T12:34', '2026-07-15T00:00', '2026-03-29T03:00', '2026-10-25T04:00'])(
    'read back from an input as they were shown: %s',
    (local) => {
      at('Europe/Vienna')
      expect(toLocal(fromLocal(local)!)).toBe(local)
    },
  )

  it('of an empty or unreadable input are none', () => {
    expect(fromLocal('')).toBeUndefined()
    expect(fromLocal('soon')).toBeUndefined()
  })

  it.each([
    [0, 'now'],
    [60_000, '1 minute ago'],
    [89 * 60_000, '89 minutes ago'],
    [3 * 3_600_000, '3 hours ago'],
    [40 * 3_600_000, '2 days ago'],
    [-2 * 86_400_000, 'in 2 days'],
  ])('%d ms before now is said as %s', (before, words) => {
    const now = Date.parse('2026-02-16T09:30:00Z')
    expect(ago(new Date(now - before).toISOString(), now)).toBe(words)
  })
})

describe('figures', () => {
  const definition = { unit: 'hours' } as Parameters<typeof figure>[1]
  it('say when there is no base, and when they are a lower bound', () => {
    expect(figure({ value: null }, definition)).toBe('no base')
    expect(figure({ value: null, at_least: 2_313 }, definition)).toBe('> 2,313')
    expect(figure(undefined, definition)).toBe('')
  })

  it.each([
    ['hours', 31.04, '31.0'],
    ['share', 0.9857, '98.6 %'],
    ['money', 123_456, '1,235'],
    ['count', 1_234, '1,234'],
  ])('of %s', (kind, value, text) => {
    expect(figure({ value }, { unit: kind } as never)).toBe(text)
  })

  it('of hours drop the decimals where they are many', () => {
    expect([hours(999.94), hours(1_000)]).toEqual(['999.9', '1,000'])
    expect([duration(31 * 3_600_000 + 5 * 60_000), duration(-120_000)]).toEqual(['31 h 05', '−0 h 02'])
  })
})

describe('readings', () => {
  it('have their unit as people write it, or the grade’s name', () => {
    expect(reading(109.25, 'bar')).toBe('109.3 bar')
    expect(reading(61, 'Cel')).toBe('61 °C')
    expect(reading(6, '1')).toBe('6')
    expect(reading(2, '1', ['bright', 'dull', 'rust film'])).toBe('rust film')
    expect(unit('[g]')).toBe('g')
    expect(plain(1_234_567)).toBe('1,234,567')
  })
})

it('what is chosen of many is told in short', () => {
  expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map(inShort)).toEqual(['all', 'a', 'a, b', '3 chosen'])
})
