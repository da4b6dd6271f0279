import type { ReplayView } from '../common/api'

const DAY = 86_400_000
/** Whole days of a warning. */
export const days = (ms: number) => Math.floor(ms / DAY)

export const count = (n: number, one: string, many: string) =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`

type Judged = Pick<ReplayView, 'caught' | 'too_late' | 'missed' | 'nuisance' | 'median_warning_ms'>

/** All failures that were judged. */
export const failuresOf = (judged: Pick<Judged, 'caught' | 'too_late' | 'missed'>) =>
  judged.caught + judged.too_late + judged.missed

function fate(judged: Judged): string {
  const { caught, missed, too_late: late } = judged
  const failures = failuresOf(judged)
  if (!failures) return 'No failure came in the period'
  const all = failures === 1 ? 'the failure' : `all ${failures} failures`
  if (late === failures) return `Warns of ${all} too late`
  if (caught === failures) return `Catches ${all}`
  if (missed === failures) return `Misses ${all}`
  return `Catches ${caught} of ${failures} failures${late ? `, warns of ${late} too late` : ''}`
}

/** What limits would have done to one meter, in one sentence: the failures first. */
export function verdict(view: Judged, work: number): string {
  const warning = view.median_warning_ms
  const before =
    warning == null
      ? ''
      : `, ${count(days(warning), 'day', 'days')} before${view.caught > 1 ? ' in the middle' : ''}`
  const price = `${count(view.nuisance, 'nuisance warning', 'nuisance warnings')}, ${count(work, 'work order', 'work orders')}`
  return `${fate(view)}${before}; ${price}.`
}

/** The same of a family. */
export function verdictTogether(all: Judged & { work: number }): string {
  const failures = failuresOf(all)
  const late = all.too_late ? `, warned of ${all.too_late} too late` : ''
  const caught = failures
    ? `In this period they would have caught ${all.caught} of ${count(failures, 'failure', 'failures')}${late}`
    : 'No failure came in this period'
  return `${caught}; ${count(all.nuisance, 'nuisance warning', 'nuisance warnings')}, ${count(all.work, 'work order', 'work orders')}.`
}
