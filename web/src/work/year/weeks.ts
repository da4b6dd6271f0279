import type { Schemas } from '../../common/api'
import { monthName } from '../../common/format'

/** Where a month begins among weeks: its name, and the first of its weeks, from 1 as grid columns are counted. */
export interface Month {
  name: string
  column: number
}

/** The months of weeks by their Mondays. The first is left out where the next one follows at once: two names have no room. */
export function monthsOf(mondays: string[]): Month[] {
  const found: Month[] = []
  mondays.forEach((monday, week) => {
    const name = monthName(monday)
    if (found.at(-1)?.name !== name) found.push({ name, column: week + 1 })
  })
  const [first, second] = found
  return first && second && second.column - first.column < 2 ? found.slice(1) : found
}

/**
 * The move of a cycle to a day, and where the later ones of its plan go along, theirs: by as many weeks, each that may go there.
 */
export function movesOf(
  plan: Schemas['YearPlan'],
  cycle: Schemas['YearCycle'],
  on: string,
  along: boolean,
): Schemas['MoveRow'][] {
  const move = (number: number, to: string) => ({ plan: plan.code, asset: plan.asset.code, number, to })
  const week = Object.keys(cycle.places).find((one) => cycle.places[one] === on)
  const weeks = Number(week) - cycle.week
  const later = along ? plan.cycles.filter((one) => one.number > cycle.number) : []
  const moved = later.flatMap((one) => {
    const to = one.places[String(one.week + weeks)]
    return to ? [move(one.number, to)] : []
  })
  return [move(cycle.number, on), ...moved]
}
