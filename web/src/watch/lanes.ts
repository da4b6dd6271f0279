import type { AlarmRow, Ladder, WorkSpan, ReplayView } from '../common/api'
import { dateTime } from '../common/format'
import { severities } from '../generated/words'
import { type View, xOf } from '../common/chart/geometry'

/** The height of a lane, and the room a mark's words need, in pixels. */
export const LANE = 24
const WORDS = 118
const LEAST = 3
const DAY = 86_400_000

/** The time axis that lanes share with the trend above. */
export interface Axis {
  view: View
  width: number
  /** Of the trend's own margin. */
  left: number
  /** Where what has not ended is drawn to. */
  now: number
}

const ms = (at: string | null | undefined, axis: Axis) => (at ? Date.parse(at) : axis.now)
const x = (at: string | null | undefined, axis: Axis) => xOf(ms(at, axis), axis.view, axis.width)
const inView = (from: string, to: string | null | undefined, axis: Axis) =>
  Date.parse(from) < axis.view.to && ms(to, axis) >= axis.view.from
const bar = (from: string, to: string | null | undefined, axis: Axis) => ({
  x: x(from, axis),
  width: Math.max(LEAST, x(to, axis) - x(from, axis)),
})
/** The worse, the higher: one bar of strokes above another. */
const heightOf = (severity: AlarmRow['severity']) => 3 + (3 - severities.indexOf(severity)) * 4.5

export function alarmBars(alarms: AlarmRow[], axis: Axis) {
  return alarms
    .filter((alarm) => inView(alarm.entered_at, alarm.left_at, axis))
    .map((alarm) => ({
      key: `${alarm.id}`,
      severity: alarm.severity,
      ...bar(alarm.entered_at, alarm.left_at, axis),
      y: heightOf(alarm.severity),
      title: `${alarm.rung ?? 'silent'}, ${alarm.shown}, ${dateTime(alarm.entered_at)}`,
      test: 'alarm-bar',
    }))
}

export function workBars(work: WorkSpan[], axis: Axis) {
  return work
    .filter((one) => inView(one.raised_at, one.done_at, axis))
    .map((one, index) => ({
      key: one.number,
      own: one.from_this_meter,
      ...bar(one.raised_at, one.done_at, axis),
      y: LANE + 4 + (index % 2) * 8,
      title: `${one.number} ${one.title}, raised ${dateTime(one.raised_at)}`,
    }))
}

/** Alarms that edited limits would have made; many near together come as one. */
export function wouldBeBars(alarms: ReplayView['alarms'], ladder: Ladder, axis: Axis) {
  return alarms.flatMap((alarm) => {
    const severity = ladder.rungs[alarm.rung]?.severity
    if (!severity || !inView(alarm.entered_at, alarm.left_at, axis)) return []
    const entered = dateTime(alarm.entered_at)
    return {
      key: `${alarm.rung} ${alarm.entered_at}`,
      severity,
      ...bar(alarm.entered_at, alarm.left_at, axis),
      y: 3 * LANE + heightOf(severity),
      title:
        alarm.alarms > 1
          ? `${severity} would have been entered ${alarm.alarms} times, from ${entered}`
          : `${severity} would have been entered, ${entered}`,
      test: 'would-be-alarm',
    }
  })
}

export function wouldBeWork(work: ReplayView['work'], axis: Axis) {
  return work
    .filter((one) => inView(one.raised_at, one.raised_at, axis))
    .map((one) => ({
      x: x(one.raised_at, axis),
      title: `work would have been raised, ${dateTime(one.raised_at)}`,
    }))
}

/** Coded failures; those that edited limits are judged by say what would have come of them. */
export function failureMarks(work: WorkSpan[], judged: ReplayView['failures'], axis: Axis) {
  const warnings = new Map(judged.map((one) => [one.work_order, one.warning_ms]))
  const fate = (number: number) => {
    if (!warnings.has(number)) return ''
    const warning = warnings.get(number)
    return warning == null ? ': missed' : `: caught ${Math.floor(warning / DAY)} days before`
  }
  const marks = work
    .flatMap((one) => {
      const failed = one.failed_at
      if (!failed || !inView(failed, failed, axis)) return []
      const label = one.problem ?? 'not coded'
      return {
        key: one.number,
        x: x(failed, axis),
        title: `${label}, ${dateTime(failed)}${fate(one.number)}`,
        label,
        caught: warnings.get(one.number) != null,
      }
    })
    .sort((a, b) => a.x - b.x)
  return marks.map((mark, index) => {
    // Words stand on the side that has room, or not at all: the mark says them when it is pointed at.
    const right = (marks[index + 1]?.x ?? axis.width) - mark.x > WORDS
    const left = mark.x - (marks[index - 1]?.x ?? axis.left) > 2 * WORDS
    return { ...mark, side: right ? 'right' : left ? 'left' : '' }
  })
}
