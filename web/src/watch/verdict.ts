import type { ReplayView } from '../common/api'

const DAY = 86_400_000
/** Whole days of a warning. */
export const days = (ms: number) => Math.floor(ms / DAY)

export const count = (n: number, one: string, many: string) =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`

type Judged = Pick<ReplayView, 'caught' | 'missed' | 'nuisance' | 'median_warning_ms'>

function fate({ caught, missed }: Judged): string {
  const failures = caught + missed
  if (!failures) return 'No failure came in the period'
  const all = failures === 1 ? 'the failure' : `all ${failures} failures`
  if (missed === 0) return `Catches ${all}`
  return caught === 0 ? `Misses ${all}` : `Catches ${caught} of ${failures} failures`
}

/** What limits would have done to one meter, in one sentence: the failures first. */
export function verdict(view: Judged, work: number): string {
  const warning = view.median_warning_ms
  const before =
    warning == null
      ? ''
      : `, ${count(days(warning), 'day', 'days')} before${view.caught > 1 ? ' in the middle' : ''}`
  const price = `${count(view.nuisance, 'nuisance spell', 'nuisance spells')}, ${count(work, 'work order', 'work orders')}`
  return `${fate(view)}${before}; ${price}.`
}

/** The same of a family. */
export function verdictTogether(all: Judged & { work: number }): string {
  const failures = all.caught + all.missed
  const caught = failures
    ? `In this period they would have caught ${all.caught} of ${count(failures, 'failure', 'failures')}`
    : 'No failure came in this period'
  return `${caught}; ${count(all.nuisance, 'nuisance spell', 'nuisance spells')}, ${count(all.work, 'work order', 'work orders')}.`
}
