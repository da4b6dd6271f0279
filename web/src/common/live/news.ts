/** What a kept change touched, as the server tells it. */
export interface News {
  /** Codes of meters with new readings. */
  meters: string[]
  alarms: boolean
  work: boolean
  setup: boolean
}

/** As many meters as the server names: there may be more. */
const MOST_NAMED = 1_000

/** First words of the queries that each kind of news makes old. */
const OF_READINGS = ['meters', 'clock']
/** Those of one meter, whose code is the second word. */
const OF_ONE_METER = ['meter', 'series', 'replay', 'forecast', 'reading-list']
const OF_ALARMS = [
  'alarms',
  'meter-alarms',
  'alarm-performance',
  'lanes',
  'assets',
  'meter',
  'meters',
  'start',
]
const OF_WORK = ['work-orders', 'work-order', 'lanes', 'assets', 'asset', 'start', 'outbox', 'tally', 'why']

/** Whether a query, by its key, shows what the news says is old. */
export function isOld(key: readonly unknown[], news: News): boolean {
  const word = String(key[0])
  if (news.setup) return true
  if (news.alarms && OF_ALARMS.includes(word)) return true
  if (news.work && OF_WORK.includes(word)) return true
  if (!news.meters.length) return false
  if (OF_READINGS.includes(word)) return true
  const isNamed = news.meters.length >= MOST_NAMED || news.meters.includes(String(key[1]))
  return OF_ONE_METER.includes(word) && isNamed
}

/** Both together. */
export const joined = (one: News, other: News): News => ({
  meters: [...new Set([...one.meters, ...other.meters])],
  alarms: one.alarms || other.alarms,
  work: one.work || other.work,
  setup: one.setup || other.setup,
})

/** Nothing has changed. */
export const nothing = (): News => ({ meters: [], alarms: false, work: false, setup: false })
/** Anything may have. */
export const anything = (): News => ({ ...nothing(), setup: true })
