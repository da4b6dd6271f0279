import { expect, test } from 'vitest'
import cases from './cases.json'
import { type Answers, type Question, lookedUp } from './conditions'

test('what is looked up here is what core says, case by case', () => {
  expect(cases.cases.length).toBeGreaterThan(80)
  for (const { answers, judged } of cases.cases) {
    const given: Answers = Object.fromEntries(
      answers.map(({ question, value }) => [question, value]),
    ) as Answers
    expect(lookedUp(cases.questions as Question[], given)).toEqual({
      asked: judged.asked,
      missing: judged.missing,
      outside: judged.outside,
    })
  }
})
