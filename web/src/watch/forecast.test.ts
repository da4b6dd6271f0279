import { expect, it } from 'vitest'
import { slopeWords } from './forecast'

const line = (slope: number, slope_lower: number, slope_upper: number) =>
  ({ slope, slope_lower, slope_upper }) as Parameters<typeof slopeWords>[0]

it.each([
  [line(-0.014277, -0.01429, -0.01327), 'Falls by 0.428 mm in 30 days (95 %: 0.398 to 0.429)'],
  [line(0.5, 0.4, 0.7), 'Rises by 15.0 mm in 30 days (95 %: 12.0 to 21.0)'],
  [
    line(0.01, -0.02, 0.03),
    'Rises by 0.300 mm in 30 days (95 %: from falling by 0.600 mm to rising by 0.900 mm)',
  ],
])('the slope %j is said without signs', (given, words) => {
  expect(slopeWords(given, 'mm')).toBe(words)
})
