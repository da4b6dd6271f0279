import type { Schemas } from '../common/api'
import { pictureAt } from '../common/checks/pictures'

export type AskKind = Schemas['Asks']['kind']
type When = Schemas['Condition']['when']

/** What can be asked, in the words of the screen. */
export const askWords: Record<AskKind, string> = {
  reading: 'reading of a meter',
  number: 'number',
  choice: 'choice',
  pass_fail: 'pass or fail',
  text: 'text',
  photo: 'photo',
  signature: 'signature',
}

export const whenWords: Record<When, string> = {
  below: 'is below',
  above: 'is above',
  among: 'is one of',
}

/** What an answer is held against, as it is typed. */
export interface ConditionDraft {
  when: When
  value?: number
  /** With commas between. */
  values: string
}

export interface RuleDraft extends ConditionDraft {
  title: string
  work_kind: Schemas['WorkKind']
  risk_rank: number
  trade: string
  crew: string
  job_sheet: string
}

export interface QuestionDraft {
  key: string
  text: string
  kind: AskKind
  meter: string
  unit: string
  /** One a line. */
  choices: string
  several: boolean
  help: string
  /** A picture that helps, with what to show of it. */
  picture?: { file: string; shown?: string }
  compulsory: boolean
  low?: number
  high?: number
  /** The key of the question before it that says whether it is asked; nothing where it always is. */
  only_if: string
  is: ConditionDraft
  rules: RuleDraft[]
}

export interface Draft {
  title: string
  status: Schemas['Status']
  text: string
  class: string
  /** Codes. */
  assets: string
  questions: QuestionDraft[]
}

const condition = (): ConditionDraft => ({ when: 'among', values: '' })

/** The next key that no question has. */
export function freeKey(questions: { key: string }[]): string {
  let next = questions.length + 1
  while (questions.some(({ key }) => key === `q${next}`)) next += 1
  return `q${next}`
}

export const emptyQuestion = (key: string): QuestionDraft => ({
  key,
  text: '',
  kind: 'pass_fail',
  meter: '',
  unit: '',
  choices: '',
  several: false,
  help: '',
  compulsory: true,
  only_if: '',
  is: condition(),
  rules: [],
})

export const emptyRule = (kind: AskKind): RuleDraft => ({
  ...condition(),
  when: isNumber(kind) ? 'above' : 'among',
  values: kind === 'pass_fail' ? 'fail' : '',
  title: '',
  work_kind: 'condition_based',
  risk_rank: 3,
  trade: '',
  crew: '',
  job_sheet: '',
})

export const isNumber = (kind: AskKind): boolean => kind === 'number' || kind === 'reading'

/** What an answer of that kind can be held against. */
export function whensOf(kind: AskKind): When[] {
  const all = Object.keys(whenWords) as When[]
  if (kind === 'reading') return all
  if (kind === 'number') return all.filter((when) => when !== 'among')
  return kind === 'choice' || kind === 'pass_fail' ? ['among'] : []
}

export const emptyDraft = (): Draft => ({
  title: '',
  status: 'draft',
  text: '',
  class: '',
  assets: '',
  questions: [emptyQuestion('q1')],
})

const conditionOf = (is: Schemas['Condition']): ConditionDraft =>
  is.when === 'among'
    ? { when: is.when, values: is.values.join(', ') }
    : { when: is.when, value: is.value, values: '' }

/** A question of the sheet of that code. */
export const questionDraftOf = (code: string, { asks, ...question }: Schemas['Question']): QuestionDraft => ({
  key: question.key,
  text: question.text,
  kind: asks.kind,
  meter: asks.kind === 'reading' ? asks.meter : '',
  unit: asks.kind === 'number' ? (asks.unit ?? '') : '',
  choices: asks.kind === 'choice' ? asks.choices.join('\n') : '',
  several: asks.kind === 'choice' && (asks.several ?? false),
  help: question.help ?? '',
  picture: question.picture
    ? { file: question.picture, shown: pictureAt(code)(question.picture, true) }
    : undefined,
  compulsory: question.compulsory ?? false,
  low: question.low ?? undefined,
  high: question.high ?? undefined,
  only_if: question.only_if?.question ?? '',
  is: question.only_if ? conditionOf(question.only_if.is) : condition(),
  rules: (question.rules ?? []).map((rule) => ({
    ...conditionOf(rule.is),
    title: rule.title ?? '',
    work_kind: rule.work_kind,
    risk_rank: rule.risk_rank,
    trade: rule.trade ?? '',
    crew: rule.crew ?? '',
    job_sheet: rule.job_sheet ?? '',
  })),
})

export const draftOf = ({ code, sheet }: { code: string; sheet: Schemas['CheckSheet'] }): Draft => ({
  title: sheet.title,
  status: sheet.status ?? 'draft',
  text: sheet.text ?? '',
  class: sheet.class ?? '',
  assets: (sheet.assets ?? []).join(' '),
  questions: sheet.questions.map((question) => questionDraftOf(code, question)),
})

const some = (text: string) => text.trim() || null
const parts = (text: string, at: RegExp) =>
  text
    .split(at)
    .map((part) => part.trim())
    .filter(Boolean)

function asksOf({ kind, meter, unit, choices, several }: QuestionDraft): Schemas['Asks'] {
  if (kind === 'reading') return { kind, meter: meter.trim() }
  if (kind === 'number') return { kind, unit: unit.trim() }
  return kind === 'choice' ? { kind, choices: parts(choices, /\n/), several } : { kind }
}

const sent = ({ when, value, values }: ConditionDraft): Schemas['Condition'] =>
  when === 'among' ? { when, values: parts(values, /,/) } : { when, value: value ?? 0 }

/** What is sent of it. */
export const bodyOf = (draft: Draft): Schemas['CheckSheet'] => ({
  title: draft.title.trim(),
  status: draft.status,
  text: draft.text,
  class: some(draft.class),
  assets: parts(draft.assets, /[\s,]+/),
  questions: draft.questions.map((question) => ({
    key: question.key,
    text: question.text.trim(),
    asks: asksOf(question),
    help: some(question.help),
    picture: question.picture?.file,
    compulsory: question.compulsory,
    low: isNumber(question.kind) ? (question.low ?? null) : null,
    high: isNumber(question.kind) ? (question.high ?? null) : null,
    only_if: question.only_if ? { question: question.only_if, is: sent(question.is) } : null,
    rules: question.rules.map((rule) => ({
      is: sent(rule),
      title: some(rule.title),
      work_kind: rule.work_kind,
      risk_rank: rule.risk_rank,
      trade: some(rule.trade),
      crew: some(rule.crew),
      job_sheet: some(rule.job_sheet),
    })),
  })),
})
