import { describe, expect, it } from 'vitest'
import { type GroupRow, addressOf, chosenOf, filtersOf, valuesOf, withValue } from './asked'

describe('what is chosen of a list', () => {
  it('is in the address as it was chosen, and nothing is nothing', () => {
    const chosen = { filter: [{ column: 'state', is: ['ready'] }], group: [{ column: 'crew' }] }
    expect(chosenOf(addressOf(chosen))).toEqual(chosen)
    expect(addressOf({ filter: [], sort: undefined })).toBe('')
    for (const unread of ['', '{', '[]', '7', 'null']) expect(chosenOf(unread)).toEqual({})
  })

  it('takes values in and out, and leaves other filters alone', () => {
    const late = { column: 'cost', from: '100' }
    const one = withValue({ filter: [late] }, 'state', 'ready')
    const two = withValue(one, 'state', 'waiting')
    expect(valuesOf(two, 'state')).toEqual(['ready', 'waiting'])
    expect(withValue(withValue(two, 'state', 'ready'), 'state', 'waiting').filter).toEqual([late])
  })

  it('says what the rows of a group have in common', () => {
    const group = (key: GroupRow['key'], filter: string, until?: string): GroupRow => ({
      depth: 0,
      key,
      filter,
      until,
      count: 1,
      summaries: [],
    })
    const path = [
      { column: 'at', group: group('2026-01-01T00:00:00Z', '1', '2026-02-01T00:00:00Z') },
      { column: 'person', group: group({ code: 'tess', name: 'Tess' }, 'tess') },
      { column: 'crew', group: group(null, '') },
    ]
    expect(filtersOf(path)).toEqual([
      { column: 'at', from: '2026-01-01T00:00:00Z', to: '2026-02-01T00:00:00Z' },
      { column: 'person', is: ['tess'] },
      { column: 'crew', blank: true },
    ])
  })
})
