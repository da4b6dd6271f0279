import type { Schemas } from '../common/api'

/** A job sheet as it is typed: lists as lines, nothing as an empty text. */
export interface Draft {
  title: string
  status: Schemas['Status']
  text: string
  kind: Schemas['WorkKind'] | ''
  risk_rank?: number
  trade: string
  crew: string
  estimated_hours?: number
  steps: { text: string; asset: string; meters: string; check_sheet: string; hours?: number }[]
  check_sheets: string
  parts: { item: string; quantity?: number }[]
  tools: string
  permits: string
  needs_outage: boolean
}

export const emptyDraft = (): Draft => ({
  title: '',
  status: 'draft',
  text: '',
  kind: '',
  trade: '',
  crew: '',
  steps: [{ text: '', asset: '', meters: '', check_sheet: '' }],
  check_sheets: '',
  parts: [],
  tools: '',
  permits: '',
  needs_outage: false,
})

export const draftOf = (sheet: Schemas['JobSheet']): Draft => ({
  title: sheet.title,
  status: sheet.status ?? 'draft',
  text: sheet.text ?? '',
  kind: sheet.kind ?? '',
  risk_rank: sheet.risk_rank ?? undefined,
  trade: sheet.trade ?? '',
  crew: sheet.crew ?? '',
  estimated_hours: sheet.estimated_hours ?? undefined,
  check_sheets: (sheet.check_sheets ?? []).join(' '),
  steps: (sheet.steps ?? []).map(({ text, asset, meters, check_sheet, hours }) => ({
    text: text ?? '',
    asset: asset ?? '',
    meters: (meters ?? []).join(' '),
    check_sheet: check_sheet ?? '',
    hours: hours ?? undefined,
  })),
  parts: (sheet.parts ?? []).map(({ item, quantity }) => ({ item, quantity })),
  tools: (sheet.tools ?? []).join('\n'),
  permits: (sheet.permits ?? []).join('\n'),
  needs_outage: sheet.needs_outage ?? false,
})

const lines = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
const codes = (text: string) => text.split(/[\s,]+/).filter(Boolean)
const some = (text: string) => text.trim() || null

/** What is sent of it. A step without a word is none. */
export const bodyOf = (draft: Draft): Schemas['JobSheet'] => ({
  title: draft.title,
  status: draft.status,
  text: draft.text,
  kind: draft.kind || null,
  risk_rank: draft.risk_rank ?? null,
  trade: some(draft.trade),
  crew: some(draft.crew),
  estimated_hours: draft.estimated_hours ?? null,
  steps: draft.steps
    .filter((step) => [step.text, step.asset, step.meters, step.check_sheet].some((text) => text.trim()))
    .map(({ text, asset, meters, check_sheet, hours }) => ({
      text: text.trim(),
      asset: some(asset),
      meters: codes(meters),
      check_sheet: some(check_sheet),
      hours: hours ?? null,
    })),
  parts: draft.parts.map(({ item, quantity }) => ({ item: item.trim(), quantity: quantity ?? 0 })),
  check_sheets: codes(draft.check_sheets),
  tools: lines(draft.tools),
  permits: lines(draft.permits),
  needs_outage: draft.needs_outage,
})
