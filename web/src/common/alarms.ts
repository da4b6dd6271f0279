import type { AlarmRow } from './api'
import { dateTime } from './format'

/** What an alarm did, before the number of its work order if it has one. */
export const responseWords: Record<AlarmRow['response'], string> = {
  recorded: 'with a worse one',
  record: 'recorded',
  notify: 'people told',
  held: 'held',
  joined: 'joined work',
  escalated: 'escalated work',
  raised: 'raised work',
}

/** How an alarm ended, where it was not by its readings. */
export const leftWords: Record<string, string> = {
  limits_changed: 'limits changed',
  voided: 'its reading was voided',
  retired: 'the meter was retired',
}

/** What a rung that waits for work waits for, or what its newest answer came after. */
export function afterWords({
  finished_at,
  after_work,
}: Pick<AlarmRow, 'finished_at' | 'after_work'>): string {
  if (finished_at) return `finished ${dateTime(finished_at)}; the next reading decides`
  return after_work ? `still beyond after work ${after_work}` : ''
}

/** What held an alarm back. */
export function heldWords({ held_by: by }: Pick<AlarmRow, 'held_by'>): string {
  if (!by) return ''
  if (by.kind === 'raise_interval')
    return `work ${by.work_order} was raised shortly before, until ${dateTime(by.until)}`
  if (by.kind === 'run_on')
    return `decided on work ${by.work_order} to run on until ${dateTime(by.until)}${by.reason ? `: ${by.reason}` : ''}`
  if (by.kind === 'shelf') return `shelved until ${dateTime(by.until)}: ${by.reason}`
  const until = by.until ? ` until ${dateTime(by.until)}` : ''
  return `the asset is out of use${until}${by.reason ? `: ${by.reason}` : ''}`
}

/** What was found, against the rung. */
export function reached(alarm: AlarmRow): string {
  if (alarm.kind === 'silent') return alarm.shown ? `silent; last ${alarm.shown}` : 'silent, never read'
  if (alarm.side === 'grade') return `${alarm.shown}, which is ${alarm.severity}`
  return `${alarm.shown} at the ${alarm.rung ?? 'limit'} rung`
}

const WEEK = 7 * 86_400_000

/** A link to the meter at the moment its alarm began: a week before to a week after. */
export function momentOf(
  alarm: Pick<AlarmRow, 'meter' | 'entered_at'>,
  to: (path: string, parts?: Record<string, string>) => { path: string; query: Record<string, string> },
) {
  const at = Date.parse(alarm.entered_at)
  return to(`/watch/${alarm.meter}`, {
    view: `${new Date(at - WEEK).toISOString()}/${new Date(at + WEEK).toISOString()}`,
  })
}
