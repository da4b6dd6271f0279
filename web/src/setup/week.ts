import type { components } from '../generated/api'

export type WeeklyHours = components['schemas']['WeeklyHours']

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']

function clock(minute: number): string {
  return `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
}

/** Weekly hours as text, one stretch of days a line: `Mon–Fri 06:00–22:00`. */
export function weekText(hours: WeeklyHours[]): string {
  const lines: string[] = []
  const sorted = [...hours].sort(
    (a, b) => a.from_minute - b.from_minute || a.to_minute - b.to_minute || a.weekday - b.weekday,
  )
  for (let start = 0; start < sorted.length;) {
    const first = sorted[start]!
    let end = start
    while (
      sorted[end + 1]?.from_minute === first.from_minute &&
      sorted[end + 1]?.to_minute === first.to_minute &&
      sorted[end + 1]?.weekday === sorted[end]!.weekday + 1
    )
      end += 1
    const last = sorted[end]!
    const span =
      first.weekday === last.weekday ? days[first.weekday] : `${days[first.weekday]}–${days[last.weekday]}`
    lines.push(`${span} ${clock(first.from_minute)}–${clock(first.to_minute)}`)
    start = end + 1
  }
  return lines.join('\n')
}

export function weekWords(hours: WeeklyHours[]): string {
  return weekText(hours).replaceAll('\n', ', ') || 'none'
}

/** The hours that such a text means, or the first line that means none. */
export function readWeek(text: string): { hours: WeeklyHours[] } | { wrong: string } {
  const hours: WeeklyHours[] = []
  for (const line of text.split('\n').map((part) => part.trim())) {
    if (!line) continue
    const parts =
      /^([A-Za-z]{3})(?:\s*[–-]\s*([A-Za-z]{3}))?\s+(\d{1,2}):(\d\d)\s*[–-]\s*(\d{1,2}):(\d\d)$/.exec(line)
    const day = (name: string | undefined) =>
      days.findIndex((one) => one.toLowerCase() === name?.toLowerCase())
    const first = day(parts?.[1])
    const last = parts?.[2] ? day(parts[2]) : first
    if (!parts || first < 0 || last < first)
      return { wrong: `“${line}” is no such line as Mon–Fri 06:00–22:00` }
    const minutes = (h: number, m: number) => Number(parts[h]) * 60 + Number(parts[m])
    for (let weekday = first; weekday <= last; weekday += 1)
      hours.push({ weekday, from_minute: minutes(3, 4), to_minute: minutes(5, 6) })
  }
  return { hours }
}
