import type { components } from '../generated/api'

export type Effect = components['schemas']['ParentEffect']

/** What an asset's being down does to its parent, as a sentence. */
export function effectWords(effect: Effect): string {
  if (effect.kind === 'yes') return 'puts what it belongs to down as well'
  if (effect.kind === 'no') return 'what it belongs to goes on'
  return `one of the ${effect.name}: what it belongs to is down while fewer than ${effect.needs} of them are up`
}
