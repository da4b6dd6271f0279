import { expect, test } from 'vitest'
import { bodyOf, draftOf, emptyDraft } from './job'

test('What is typed goes out as lists, and comes back as it was typed', () => {
  const draft = {
    ...emptyDraft(),
    title: 'Change the oil',
    crew: ' mech ',
    steps: [
      { text: 'Drain', asset: '', meters: 'G1-OIL, G1-HOURS', check_sheet: 'LOOK', hours: 1.5 },
      { text: ' ', asset: '', meters: '', check_sheet: '' },
    ],
    parts: [{ item: 'Gear oil', quantity: 180 }],
    permits: 'Lock the drive\n\nTag the pump ',
  }
  const body = bodyOf(draft)
  expect(body.steps).toEqual([
    { text: 'Drain', asset: null, meters: ['G1-OIL', 'G1-HOURS'], check_sheet: 'LOOK', hours: 1.5 },
  ])
  expect([body.crew, body.permits, body.kind]).toEqual(['mech', ['Lock the drive', 'Tag the pump'], null])
  expect(bodyOf(draftOf(body))).toEqual(body)
})
