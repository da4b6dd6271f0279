import { afterEach, beforeEach, expect, test } from 'vitest'
import { installation } from '../installation'
import { ticks } from './ticks'

const before = installation.value
beforeEach(() => (installation.value = { ...before, time_zone: 'Europe/Berlin' }))
afterEach(() => (installation.value = before))

const over = (from: string, to: string, most = 8) =>
  ticks(Date.parse(from), Date.parse(to), most).map(({ at, says }) => [
    new Date(at).toISOString().slice(0, 16),
    says,
  ])

// Clocks of this zone are one hour ahead of UTC in winter, two in summer; they change at 01:00 UTC (IANA time zone database).
test('Days begin at midnight of the installation, whatever the browser and the season', () => {
  expect(over('2026-10-23T00:00Z', '2026-10-27T12:00Z', 5)).toEqual([
    ['2026-10-23T22:00', '24 Oct'],
    ['2026-10-24T22:00', '25 Oct'],
    ['2026-10-25T23:00', '26 Oct'],
    ['2026-10-26T23:00', '27 Oct'],
  ])
})

test('Hours go on through the night that has one twice', () => {
  expect(over('2026-10-24T21:30Z', '2026-10-25T04:30Z')).toEqual([
    ['2026-10-24T22:00', '25 Oct'],
    ['2026-10-24T23:00', '01:00'],
    ['2026-10-25T01:00', '02:00'],
    ['2026-10-25T02:00', '03:00'],
    ['2026-10-25T03:00', '04:00'],
    ['2026-10-25T04:00', '05:00'],
  ])
})

test('Months, and years where they begin', () => {
  expect(over('2025-10-15T00:00Z', '2026-03-15T00:00Z').map(([, says]) => says)).toEqual([
    'Nov',
    'Dec',
    '2026',
    'Feb',
    'Mar',
  ])
  expect(over('1990-06-01T00:00Z', '2026-03-15T00:00Z').map(([, says]) => says)).toEqual([
    '1995',
    '2000',
    '2005',
    '2010',
    '2015',
    '2020',
    '2025',
  ])
})

test('Never more than are asked for by much, and none of an empty stretch', () => {
  const from = Date.parse('2026-01-01T00:00Z')
  for (let hours = 1; hours < 500_000; hours = Math.ceil(hours * 1.7)) {
    const found = ticks(from, from + hours * 3_600_000, 8)
    expect(found.length, `${hours} h`).toBeLessThanOrEqual(9)
    expect(found.every(({ at }, index) => index === 0 || at > found[index - 1]!.at)).toBe(true)
  }
  expect(ticks(5, 5, 8)).toEqual([])
})
