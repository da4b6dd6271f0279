import { answer, api, type Ladder, type Problem, type Rung } from '../common/api'
import type { components } from '../generated/api'

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

/** An edit that asks the server for a rung's numbers. */
export type Edit = components['schemas']['Edit']

/** The rung as an edit of the ladder makes it; `last` is what the meter read last. */
export const editedRung = (ladder: Ladder, edit: Edit, last?: number) =>
  answer(api.POST('/api/v1/ladders/edit', { body: { ladder, edit, last } }))

/** Moves a rung. Its reset value keeps its distance, as a deadband does. */
export function moveRung(rung: Rung, setpoint: number) {
  if (rung.reset != null) rung.reset = Number((rung.reset + setpoint - (rung.setpoint ?? 0)).toPrecision(6))
  rung.setpoint = setpoint
}

/** A number with three significant digits, as a hand sets it. */
export function tidy(value: number): number {
  return Number(value.toPrecision(3))
}
