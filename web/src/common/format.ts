import type { Definition, Figure, WorkKind, WorkState } from './api'
import { installation } from './installation'

/** What `make` makes of a key, made once: making a format takes a hundred times as long as using it. */
function once<K, T>(make: (key: K) => T): (key: K) => T {
  const made = new Map<K, T>()
  return (key) => {
    const known = made.get(key) ?? make(key)
    made.set(key, known)
    return known
  }
}

/** What `make` makes of a key in the installation's locale. */
function inLocale<K, T>(make: (locale: string, key: K) => T): (key: K) => T {
  const made = once((locale: string) => once((key: K) => make(locale, key)))
  return (key) => made(installation.value.locale ?? 'en-GB')(key)
}

const number = inLocale(
  (locale, digits: number) =>
    new Intl.NumberFormat(locale, { minimumFractionDigits: digits, maximumFractionDigits: digits }),
)
const significant = inLocale(
  (locale, digits: number) => new Intl.NumberFormat(locale, { maximumSignificantDigits: digits }),
)

/** A whole number: `1,200`. */
export const whole = (value: number) => number(0).format(value)
export const tenth = (value: number) => number(1).format(value)
const hundredth = (value: number) => number(2).format(value)

/** What is chosen of many, in short; nothing is all. */
export const inShort = (names: string[]) =>
  names.length > 2 ? `${names.length} chosen` : names.join(', ') || 'all'

/** Names in the order in which people look for them; figures in them by their value. */
export const byName = (one: string, other: string) =>
  one.localeCompare(other, installation.value.locale, { numeric: true })

/** Names of the months. */
export const months = (form: 'long' | 'short' = 'long') =>
  Array.from({ length: 12 }, (_, month) =>
    new Intl.DateTimeFormat(installation.value.locale, { month: form }).format(new Date(2026, month, 1)),
  )

/** Language and place of a locale, as its own people call them. */
export const localeName = (locale: string) =>
  new Intl.DisplayNames([locale], { type: 'language' }).of(locale) ?? locale

/** Minor units as an amount with all its digits. */
export function money(minor: number): string {
  const digits = installation.value.minor_digits
  return number(digits).format(minor / 10 ** digits)
}

/** Minor units in whole units of the currency, for tables. */
export function moneyShort(minor: number): string {
  return whole(minor / 10 ** installation.value.minor_digits)
}

export function hours(value: number): string {
  return Math.abs(value) >= 1000 ? whole(value) : tenth(value)
}

/** Milliseconds as hours and minutes: `31 h 05`. */
export function duration(ms: number): string {
  const minutes = Math.round(ms / 60_000)
  const sign = minutes < 0 ? '−' : ''
  const [h, m] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60]
  return `${sign}${h} h ${String(m).padStart(2, '0')}`
}

/** A number with at most four significant digits. */
export function plain(value: number): string {
  return significant(Math.abs(value) >= 10_000 ? 7 : 4).format(value)
}

/** A format for the figures of a column: all with as many digits after the point, three significant ones in the greatest. */
export function evenly(values: number[]): (value: number) => string {
  const greatest = Math.max(...values.map(Math.abs), 0)
  const digits = greatest > 0 ? Math.min(6, Math.max(0, 2 - Math.floor(Math.log10(greatest)))) : 0
  return (value) => number(digits).format(value)
}

const shown: Record<string, string> = { Cel: '°C', '[g]': 'g', '1': '', um: 'µm' }

/** How a UCUM code is shown. */
export function unit(ucum: string): string {
  return shown[ucum] ?? ucum
}

/** A reading with its unit, or a grade's name. */
export function reading(value: number, ucum: string, grades: string[] = []): string {
  return grades.length ? (grades[value] ?? String(value)) : `${plain(value)} ${unit(ucum)}`.trim()
}

/** A figure of the tally as it stands in a table cell. */
export function figure(value: Figure | undefined, definition: Pick<Definition, 'unit'>): string {
  if (!value) return ''
  if (value.at_least != null) return `> ${hours(value.at_least)}`
  if (value.value == null) return 'no base'
  switch (definition.unit) {
    case 'money':
      return moneyShort(value.value)
    case 'money_per_hour':
      return money(value.value)
    case 'hours':
      return hours(value.value)
    case 'share':
      return `${tenth(value.value * 100)} %`
    case 'count':
      return whole(value.value)
    case 'days':
    case 'weeks':
      return tenth(value.value)
    case 'factor':
    case 'per_day':
      return hundredth(value.value)
  }
}

/** The unit of a figure, as it stands beside it. */
export function unitOf({ unit }: Pick<Definition, 'unit'>): string {
  const units: Partial<Record<Definition['unit'], string>> = {
    money: installation.value.currency,
    money_per_hour: `${installation.value.currency}/h`,
    hours: 'h',
    days: 'd',
    weeks: 'wk',
    per_day: 'a day',
  }
  return units[unit] ?? ''
}

/** Formats by the installation's time zone. */
const zoned = (options: Intl.DateTimeFormatOptions) =>
  inLocale((locale, timeZone: string) => new Intl.DateTimeFormat(locale, { timeZone, ...options }))
const day = { day: 'numeric', month: 'short', year: 'numeric' } as const
const dates = zoned(day)
const times = zoned({ ...day, hour: '2-digit', minute: '2-digit' })
/** Parts of an instant for fields, whose form no locale changes. */
const inputs = once(
  (timeZone: string) =>
    new Intl.DateTimeFormat('en-GB', {
      timeZone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      hourCycle: 'h23',
    }),
)

export function date(at: string | number): string {
  return dates(installation.value.time_zone).format(new Date(at))
}

const monthsOfYears = zoned({ month: 'long', year: 'numeric' })
const years = zoned({ year: 'numeric' })

/** The month of an instant: `March 2026`. */
export const monthOf = (at: string | number) =>
  monthsOfYears(installation.value.time_zone).format(new Date(at))

const shortMonths = zoned({ month: 'short', year: '2-digit' })

/** The month of an instant where room is short: `Mar 26`. */
export const monthShort = (at: string | number) =>
  shortMonths(installation.value.time_zone).format(new Date(at))

/** The year of an instant. */
export const yearOf = (at: string | number) => years(installation.value.time_zone).format(new Date(at))

export function dateTime(at: string | number): string {
  return times(installation.value.time_zone).format(new Date(at))
}

/** A date without a time, as the calendar has it: `2026-10-25`. */
export const localDate = (iso: string) => dates('UTC').format(new Date(`${iso}T00:00Z`))

const weekdays = zoned({ weekday: 'short' })
const daysOfMonths = zoned({ day: 'numeric', month: 'short' })

/** The day of the week of a date as the calendar has it: `Mon`. */
export const weekday = (iso: string) => weekdays('UTC').format(new Date(`${iso}T00:00Z`))

const monthNames = zoned({ month: 'short' })

/** The month of a date as the calendar has it: `Mar`. */
export const monthName = (iso: string) => monthNames('UTC').format(new Date(`${iso}T00:00Z`))

/** A date where the year is known: `2 Mar`. */
export const dayOf = (iso: string) => daysOfMonths('UTC').format(new Date(`${iso}T00:00Z`))

/** How long something lasted, in one unit: `3 days`, `20 minutes`. */
export function lasting(ms: number): string {
  const minutes = Math.round(Math.abs(ms) / 60_000)
  const [value, word] =
    minutes < 90
      ? [minutes, 'minute']
      : minutes < 36 * 60
        ? [Math.round(minutes / 60), 'hour']
        : [Math.round(minutes / 1440), 'day']
  return `${value} ${word}${value === 1 ? '' : 's'}`
}

/** How long before `now`: `3 days ago`. */
export function ago(at: string, now: number): string {
  const ms = now - Date.parse(at)
  if (Math.abs(ms) < 30_000) return 'now'
  return ms < 0 ? `in ${lasting(ms)}` : `${lasting(ms)} ago`
}

/** An instant as a local date and time input wants it. */
export function toLocal(at: string | number): string {
  const parts = Object.fromEntries(
    inputs(installation.value.time_zone)
      .formatToParts(new Date(at))
      .map((part) => [part.type, part.value]),
  )
  return `${parts.year}-${parts.month}-${parts.day}T${parts.hour}:${parts.minute}`
}

/** An instant without its seconds, as fields for instants show it. */
export const onTheMinute = (at: string | number) => fromLocal(toLocal(at)) ?? ''

/** The instant that a local date and time input means in the installation's time zone; empty for an empty input. */
export function fromLocal(local: string): string | undefined {
  if (!local) return undefined
  const wanted = Date.parse(`${local}Z`)
  if (Number.isNaN(wanted)) return undefined
  // Twice, because the offset found first may be that of the other side of a clock change.
  let at = wanted
  for (let round = 0; round < 2; round += 1) at += wanted - Date.parse(`${toLocal(at)}Z`)
  return new Date(at).toISOString()
}

export const stateWords: Record<WorkState, string> = {
  raised: 'raised',
  planning: 'planning',
  waiting: 'waiting',
  ready: 'ready',
  scheduled: 'scheduled',
  under_way: 'under way',
  done: 'done',
  returned: 'returned',
  closed: 'closed',
  dropped: 'dropped',
}

export const kindWords: Record<WorkKind, string> = {
  corrective_immediate: 'corrective, immediate',
  corrective_deferred: 'corrective, deferred',
  condition_based: 'condition-based',
  predetermined: 'predetermined',
  inspection: 'inspection',
  improvement: 'improvement',
}

const words = { ...stateWords, ...kindWords } as Record<string, string>

/** A word of the API as people read it. */
export const inWords = (word: string) => words[word] ?? word.replaceAll('_', ' ')

/** So many of something: `1,200 work orders`. */
export const count = (n: number, one: string, many: string) => `${whole(n)} ${n === 1 ? one : many}`
