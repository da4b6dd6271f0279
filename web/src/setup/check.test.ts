import { expect, test } from 'vitest'
import type { Schemas } from '../common/api'
import { bodyOf, draftOf, freeKey } from './check'

const sheet: Schemas['CheckSheet'] = {
  title: 'Daily round',
  status: 'active',
  text: 'Before the first guests',
  class: 'gearbox',
  assets: ['A', 'B'],
  questions: [
    {
      key: 'bar',
      text: 'Pressure',
      asks: { kind: 'reading', meter: 'Tension pressure' },
      help: 'At the gauge',
      compulsory: true,
      low: 110,
      high: null,
      only_if: null,
      rules: [
        {
          is: { when: 'below', value: 110 },
          title: null,
          work_kind: 'condition_based',
          risk_rank: 2,
          trade: 'Hydraulics',
          crew: null,
          job_sheet: null,
        },
      ],
    },
    {
      key: 'where',
      text: 'Where?',
      asks: { kind: 'choice', choices: ['hose, red', 'seal'], several: true },
      help: null,
      compulsory: false,
      low: null,
      high: null,
      only_if: { question: 'bar', is: { when: 'above', value: 3 } },
      rules: [],
    },
  ],
}

test('what is read and written again is the same', () => {
  expect(bodyOf(draftOf({ code: 'LOOK', sheet }))).toEqual(sheet)
})

test('a new question has a key of its own', () => {
  expect(freeKey([])).toBe('q1')
  expect(freeKey([{ key: 'q2' }])).toBe('q3')
  expect(freeKey([{ key: 'q1' }, { key: 'q4' }, { key: 'q3' }])).toBe('q5')
})
