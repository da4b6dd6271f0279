import { expect, test } from 'vitest'
import { bodyOf, draftOf, emptyDraft, emptyVisit } from './round'

test('A visit has the asset’s own check sheet, another, or a job sheet', () => {
  const draft = {
    ...emptyDraft(),
    title: 'Round of the drive',
    crew: ' mech ',
    visits: [
      { key: 0, asset: 'G1-GBX ', sheet: '', text: ' Listen ', hours: 0.5 },
      { key: 1, asset: 'G1-SBR', sheet: 'check BRAKE-CHECK', text: '' },
      { key: 2, asset: 'G1-CNV', sheet: 'job AIR-FILTERS', text: '' },
      { key: 3, asset: ' ', sheet: '', text: '' },
    ],
  }
  const body = bodyOf(draft)
  expect(body.steps).toEqual([
    { asset: 'G1-GBX', check_sheet: null, job_sheet: null, text: 'Listen', hours: 0.5 },
    { asset: 'G1-SBR', check_sheet: 'BRAKE-CHECK', job_sheet: null, text: '', hours: null },
    { asset: 'G1-CNV', check_sheet: null, job_sheet: 'AIR-FILTERS', text: '', hours: null },
  ])
  expect([body.round, body.crew, body.kind]).toEqual(['in_order', 'mech', 'inspection'])
  expect(bodyOf(draftOf(body))).toEqual(body)
})

test('A new visit is told apart from all that there are', () => {
  const visits = [{ key: 4, asset: '', sheet: '', text: '' }]
  expect([emptyVisit([]).key, emptyVisit(visits).key]).toEqual([0, 5])
})
