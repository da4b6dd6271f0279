import type { AlarmRow } from '../common/api'

/** What an alarm did, before the number of its work order if it has one. */
export const responseWords: Record<AlarmRow['response'], string> = {
  recorded: 'with a worse one',
  record: 'recorded',
  notify: 'told',
  held: 'held',
  joined: 'joined work',
  escalated: 'escalated work',
  raised: 'raised work',
}
