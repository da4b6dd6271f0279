import type { Schemas } from '../api'

export type AnswerValue = Schemas['AnswerValue']
export type Question = Schemas['Question']
/** Answers by the keys of their questions. */
export type Answers = Record<string, AnswerValue | undefined>

/** Nothing is said by it. */
function isEmpty(answer: AnswerValue | undefined): boolean {
  if (!answer) return true
  if (answer.kind === 'choices') return !answer.values.length
  if (answer.kind === 'text') return !answer.text.trim()
  return answer.kind === 'files' && !answer.files.length
}

/** Looks up whether an answer meets what it is held against. */
function holds(is: Schemas['Condition'], answer: AnswerValue): boolean {
  if (is.when === 'among')
    return answer.kind === 'choices' && answer.values.some((one) => is.values.includes(one))
  if (answer.kind !== 'number') return false
  return is.when === 'below' ? answer.value < is.value : answer.value > is.value
}

/** What a page has to know before the server says it, also where there is no network: it is the server's to decide. */
export function lookedUp(questions: Question[], answers: Answers) {
  const asked: string[] = []
  const missing: string[] = []
  const outside: string[] = []
  const to = (key: string) => (isEmpty(answers[key]) ? undefined : answers[key])
  for (const { key, only_if, compulsory, low, high } of questions) {
    const before = only_if && to(only_if.question)
    if (only_if && !(asked.includes(only_if.question) && before && holds(only_if.is, before))) continue
    asked.push(key)
    const answer = to(key)
    if (!answer && compulsory) missing.push(key)
    if (
      answer?.kind === 'number' &&
      ((low != null && answer.value < low) || (high != null && answer.value > high))
    )
      outside.push(key)
  }
  return { asked, missing, outside }
}
