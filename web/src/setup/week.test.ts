import { describe, expect, it } from 'vitest'
import { readWeek, weekText, weekWords } from './week'

const daily = (from: number, to: number, days = [0, 1, 2, 3, 4, 5, 6]) =>
  days.map((weekday) => ({ weekday, from_minute: from * 60, to_minute: to * 60 }))

describe('weekly hours', () => {
  it('are written in stretches of alike days', () => {
    expect(weekText(daily(8, 17))).toBe('Mon–Sun 08:00–17:00')
    expect(weekText([...daily(6, 14, [0, 1, 2, 3, 4]), ...daily(8, 12, [5])])).toBe(
      'Mon–Fri 06:00–14:00\nSat 08:00–12:00',
    )
    expect(weekText(daily(6, 14, [0, 2]))).toBe('Mon 06:00–14:00\nWed 06:00–14:00')
    expect(weekWords([])).toBe('none')
  })

  it.each([
    daily(8, 17),
    daily(0, 24),
    [...daily(6, 14, [0, 1, 2, 3, 4]), ...daily(14, 22, [0, 1, 2, 3, 4])],
    daily(9, 18, [6]),
  ])('read back as they were written', (...hours) => {
    const read = readWeek(weekText(hours))
    expect('hours' in read && read.hours).toEqual(hours)
  })

  it('may be typed with plain dashes and in any case', () => {
    expect(readWeek('mon-wed 6:00 - 14:30\n\n')).toEqual({
      hours: [0, 1, 2].map((weekday) => ({ weekday, from_minute: 360, to_minute: 870 })),
    })
  })

  it.each(['Mon', 'Fri–Mon 06:00–14:00', 'Foo 06:00–14:00', 'Mon 6–14'])('refuse “%s” in words', (line) => {
    expect(readWeek(line)).toEqual({ wrong: `“${line}” is no such line as Mon–Fri 06:00–22:00` })
  })
})
