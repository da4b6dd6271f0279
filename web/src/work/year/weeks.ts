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
