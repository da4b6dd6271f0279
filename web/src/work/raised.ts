import type { WorkDetail, WorkKind } from '../common/api'

/** What is typed where work is raised. */
export interface RaiseDraft {
  title: string
  text: string
  asset: string
  /** Other assets on which the same is raised. */
  also: string[]
  kind: WorkKind
  risk_rank: number
  hours: number | undefined
  job_sheet: string
}

/** What new work begins from: nothing, a copy of an order, or one that it follows on from. */
export type RaiseFrom = { copy: number } | { follow: number } | undefined

/** What the address says: `yes`, `copy-1234` or `follow-1234`. */
export function raiseFrom(said: string): RaiseFrom {
  const [, how, number] = /^(copy|follow)-(\d+)$/.exec(said) ?? []
  if (how === 'copy') return { copy: Number(number) }
  return how === 'follow' ? { follow: Number(number) } : undefined
}

export const emptyDraft = (asset: string): RaiseDraft => ({
  title: '',
  text: '',
  asset,
  also: [],
  kind: 'corrective_deferred',
  risk_rank: 3,
  hours: undefined,
  job_sheet: '',
})

/** A copy says what the order says; what follows on has its asset and its rank, and words of its own. */
export function draftFrom(work: WorkDetail, from: NonNullable<RaiseFrom>): RaiseDraft {
  const begun = { ...emptyDraft(work.asset.code), kind: work.kind, risk_rank: work.risk_rank }
  if ('follow' in from) return begun
  return {
    ...begun,
    title: work.title,
    text: work.text,
    hours: work.estimated_hours ?? undefined,
    job_sheet: work.job?.code ?? '',
  }
}
