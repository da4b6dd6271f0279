import type { Schemas } from '../common/api'

/** A visit as it is typed. */
export interface Visit {
  /** Tells lines apart while they change places. */
  key: number
  asset: string
  /** `check` or `job` and the code of a sheet; empty for the asset's own check sheet. */
  sheet: string
  text: string
  hours?: number
}

/** A round as it is typed: nothing is an empty text. */
export interface Draft {
  title: string
  status: Schemas['Status']
  walk: Schemas['Walk']
  text: string
  kind: Schemas['WorkKind'] | ''
  risk_rank?: number
  trade: string
  crew: string
  visits: Visit[]
}

/** A visit to nothing yet. */
export const emptyVisit = (visits: Visit[]): Visit => ({
  key: 1 + Math.max(-1, ...visits.map(({ key }) => key)),
  asset: '',
  sheet: '',
  text: '',
})

export const emptyDraft = (): Draft => ({
  title: '',
  status: 'draft',
  walk: 'in_order',
  text: '',
  kind: 'inspection',
  trade: '',
  crew: '',
  visits: [emptyVisit([])],
})

const sheetOf = ({ check_sheet, job_sheet }: Schemas['JobStep']) =>
  check_sheet ? `check ${check_sheet}` : job_sheet ? `job ${job_sheet}` : ''

export const draftOf = (round: Schemas['JobSheet']): Draft => ({
  title: round.title,
  status: round.status ?? 'draft',
  walk: round.round ?? 'in_order',
  text: round.text ?? '',
  kind: round.kind ?? '',
  risk_rank: round.risk_rank ?? undefined,
  trade: round.trade ?? '',
  crew: round.crew ?? '',
  visits: (round.steps ?? []).map((step, key) => ({
    key,
    asset: step.asset ?? '',
    sheet: sheetOf(step),
    text: step.text ?? '',
    hours: step.hours ?? undefined,
  })),
})

const some = (text: string) => text.trim() || null
const codeOf = (sheet: string, kind: string) =>
  sheet.startsWith(`${kind} `) ? sheet.slice(kind.length + 1) : null

/** What is sent of it. A visit without a word is none. */
export const bodyOf = (draft: Draft): Schemas['JobSheet'] => ({
  title: draft.title,
  status: draft.status,
  round: draft.walk,
  text: draft.text,
  kind: draft.kind || null,
  risk_rank: draft.risk_rank ?? null,
  trade: some(draft.trade),
  crew: some(draft.crew),
  steps: draft.visits
    .filter(({ asset, sheet, text }) => [asset, sheet, text].some((said) => said.trim()))
    .map(({ asset, sheet, text, hours }) => ({
      asset: some(asset),
      check_sheet: codeOf(sheet, 'check'),
      job_sheet: codeOf(sheet, 'job'),
      text: text.trim(),
      hours: hours ?? null,
    })),
})
