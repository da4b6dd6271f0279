import { fromLocal, months, toLocal } from '../format'

export interface Tick {
  at: number
  says: string
}

const MINUTE = 60_000
const DAY = 1_440 * MINUTE

/** Steps of a time axis by the clock, in minutes, days and months. */
const MINUTES = [1, 5, 15, 30, 60, 180, 360, 720]
const DAYS = [1, 2, 7, 14]
const MONTHS = [1, 3, 6, 12, 24, 60, 120, 240, 600]

/** Wall clock time as if it were UTC, to reckon with; and back, in the installation's zone. */
const wallOf = (at: number) => Date.parse(`${toLocal(at)}Z`)
const instantOf = (wall: number) => Date.parse(fromLocal(new Date(wall).toISOString().slice(0, 16)) ?? '')

/** How a tick is called: by the largest part of its time that is new there. */
function words(wall: number, months: string[]): string {
  const date = new Date(wall)
  if (wall % DAY !== 0) return date.toISOString().slice(11, 16)
  if (date.getUTCDate() !== 1) return `${date.getUTCDate()} ${months[date.getUTCMonth()]}`
  return date.getUTCMonth() === 0 ? String(date.getUTCFullYear()) : months[date.getUTCMonth()]!
}

function* every(from: number, to: number, most: number): Generator<number> {
  const fits = (step: number) => (to - from) / step <= most
  const minutes = MINUTES.find((step) => fits(step * MINUTE))
  const days = DAYS.find((step) => fits(step * DAY))
  if (minutes || days) {
    const step = minutes ? minutes * MINUTE : days! * DAY
    for (let at = Math.ceil(from / step) * step; at <= to; at += step) yield at
    return
  }
  const step = MONTHS.find((step) => fits(step * 30.4 * DAY)) ?? MONTHS.at(-1)!
  const first = new Date(from)
  let month = Math.floor((first.getUTCFullYear() * 12 + first.getUTCMonth()) / step) * step
  for (let at = 0; at <= to; month += step) {
    at = Date.UTC(Math.floor(month / 12), month % 12)
    if (at >= from && at <= to) yield at
  }
}

/** Round times of a stretch for its axis, at most about so many, by the clock of the installation. */
export function ticks(from: number, to: number, most: number): Tick[] {
  if (!(to > from)) return []
  const names = months('short')
  const all = [...every(wallOf(from), wallOf(to), Math.max(1, most))].map((wall) => ({
    at: instantOf(wall),
    says: words(wall, names),
  }))
  // An hour that the clock skips, or has twice, makes no two ticks at one place.
  return all.filter(({ at }, index) => at >= from && at <= to && at > (all[index - 1]?.at ?? -Infinity))
}
