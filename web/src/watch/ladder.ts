import type { Ladder, MeterDetail, Problem, Rung, Severity } from '../common/api'
import { severities } from '../common/format'

/** A ladder without rungs. */
export function emptyLadder(): Ladder {
  return { raise_interval_seconds: 0, raise_interval_of: 'ladder', separate_work: false, rungs: [] }
}

/** What of a ladder can be edited, apart from whatever it is shown with. */
export function ladderOf(view: Ladder): Ladder {
  const { raise_interval_seconds, raise_interval_of, separate_work, suspended_while, rungs } = view
  return JSON.parse(
    JSON.stringify({
      raise_interval_seconds: raise_interval_seconds ?? 0,
      raise_interval_of: raise_interval_of ?? 'ladder',
      separate_work: separate_work ?? false,
      ...(suspended_while ? { suspended_while } : {}),
      rungs,
    }),
  ) as Ladder
}

/** The same as one text to compare. Fields that are empty say no more than fields that are not there. */
function text(ladder: Ladder): string {
  const bare = (_key: string, value: unknown) =>
    value === null || value === '' || (Array.isArray(value) && !value.length) ? undefined : value
  return JSON.stringify(ladderOf(ladder), bare)
}

/** Whether a rung looks at the readings themselves, so that its setpoint can be drawn beside them. */
export function onValue(rung: Rung): boolean {
  return (rung.on ?? 'value') === 'value'
}

/** A rung as it is called: `alert high`. */
export function rungName(rung: Rung): string {
  return `${rung.severity} ${rung.side}${onValue(rung) ? '' : ` (${rung.on})`}`
}

export function sameLadder(a: Ladder, b: Ladder): boolean {
  return text(a) === text(b)
}

/** Fields of a ladder whose errors stand beside what they are about. */
export function shownBeside(problem?: Problem): string[] {
  const fields = (problem?.fields ?? []).map(({ field }) => field)
  return fields.filter((field) => field.startsWith('rungs[') || field === 'suspended_while.meter')
}

/** The mildest severity that has no rung on that side yet. */
export function nextSeverity(ladder: Ladder, side: Rung['side']): Severity | undefined {
  const taken = ladder.rungs.filter((rung) => rung.side === side).map((rung) => rung.severity)
  return severities
    .slice(1)
    .concat('notice')
    .find((severity) => !taken.includes(severity))
}

/** A rung to begin with: beyond the worst one of its side, or beyond the last reading. */
export function newRung(ladder: Ladder, side: Rung['side'], severity: Severity, meter: MeterDetail): Rung {
  const rung: Rung = {
    side,
    severity,
    on_delay_seconds: 0,
    off_delay_seconds: 0,
    response: { kind: severity === 'notice' ? 'record' : 'raise', start_within_days: 14 },
  }
  if (side === 'grade') return { ...rung, grades: [] }
  const direction = side === 'high' ? 1 : -1
  const others = ladder.rungs.filter((other) => other.side === side).map((other) => other.setpoint ?? 0)
  const outermost = others.length
    ? direction * Math.max(...others.map((setpoint) => setpoint * direction))
    : (meter.last?.value ?? 0)
  const step = Math.abs(outermost) * 0.2 || 1
  return {
    ...rung,
    setpoint: tidy(outermost + direction * step),
    deadband: Number((step / 4).toPrecision(1)),
  }
}

/** A number with three significant digits, as a person would set it. */
export function tidy(value: number): number {
  return Number(value.toPrecision(3))
}
