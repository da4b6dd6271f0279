/** What of the server's news makes an answer old. What is set up makes every answer old. */
export type Topic = 'readings' | 'alarms' | 'work' | `meter:${string}`

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

/** Whether an answer that hangs on those topics is old by the news. What is set up makes every answer old. */
export function isOld(on: readonly Topic[] | undefined, news: News): boolean {
  if (news.setup) return true
  const hangsOn = (topic: Topic) => on?.includes(topic) ?? false
  if (news.alarms && hangsOn('alarms')) return true
  if (news.work && hangsOn('work')) return true
  if (!news.meters.length) return false
  if (hangsOn('readings')) return true
  if (news.meters.length >= MOST_NAMED) return on?.some((topic) => topic.startsWith('meter:')) ?? false
  return news.meters.some((code) => hangsOn(`meter:${code}`))
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
