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
  steps: { text: string; asset: string; meters: string; hours?: number }[]
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
  steps: [{ text: '', asset: '', meters: '' }],
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
  steps: (sheet.steps ?? []).map(({ text, asset, meters, hours }) => ({
    text,
    asset: asset ?? '',
    meters: (meters ?? []).join(' '),
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
    .filter((step) => [step.text, step.asset, step.meters].some((text) => text.trim()))
    .map(({ text, asset, meters, hours }) => ({
      text: text.trim(),
      asset: some(asset),
      meters: meters.split(/[\s,]+/).filter(Boolean),
      hours: hours ?? null,
    })),
  parts: draft.parts.map(({ item, quantity }) => ({ item: item.trim(), quantity: quantity ?? 0 })),
  tools: lines(draft.tools),
  permits: lines(draft.permits),
  needs_outage: draft.needs_outage,
})
