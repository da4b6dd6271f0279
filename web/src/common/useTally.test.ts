// @vitest-environment happy-dom
import { expect, test } from 'vitest'
import { mounted } from './mounted'
import { useTally } from './useTally'

const at = async (address: string) => {
  let told!: ReturnType<typeof useTally>
  await mounted({ template: '<p />', setup: () => ({ told: (told = useTally()) }) }, {}, address)
  return told
}

test('What figures are asked for is what the address says, and nothing that it does not say', async () => {
  const plain = await at('/tally')
  expect(plain.asked.value).toEqual({ scope: undefined, period: 'last_12_months', basis: 'as_was' })
  const all = await at(
    '/tally?scope=U&period=2025&basis=as_is&against=last_year&as_of=2026-01-01T00:00:00Z&crew=mech|&rank=1|2&tag=hot',
  )
  expect(all.asked.value).toEqual({
    scope: 'U',
    period: '2025',
    basis: 'as_is',
    against: 'last_year',
    as_of: '2026-01-01T00:00:00Z',
    crew: 'mech|',
    rank: '1|2',
    tag: 'hot',
  })
  // As the rows of a figure are asked for, and as a list of work is filtered.
  expect(all.heldTo.value).toEqual({ crew: ['mech', ''], rank: [1, 2], tag: ['hot'] })
  expect(all.filters.value).toEqual([
    { column: 'crew', is: ['mech', ''] },
    { column: 'rank', is: ['1', '2'] },
    { column: 'tags', is: ['hot'] },
  ])
})
