// @vitest-environment happy-dom
import { expect, test } from 'vitest'
import type { TallyRow } from '../common/api'
import { mounted } from '../common/mounted'
import TallyCell from './TallyCell.vue'
import type { Column } from './columns'

const column = { id: 'cost_total', name: 'Cost', unit: 'money', roll_up: 'additive' } as unknown as Column
const row = (given: object) =>
  ({
    kind: 'asset',
    asset: 'U',
    name: 'Unit',
    figures: { cost_total: { value: 15_000 } },
    before: {},
    moved: {},
    heat: {},
    ...given,
  }) as unknown as TallyRow

const cell = async (given: object, under = 'S') =>
  mounted(
    {
      template: '<table><tbody><tr><TallyCell v-bind="all" /></tr></tbody></table>',
      components: { TallyCell },
      setup: () => ({ all: { row: row(given), column, under } }),
    },
    {},
    '/tally',
  )

test('How a figure moved and whether that is good is what the server says', async () => {
  const worse = await cell({
    moved: { cost_total: { by: 50, units: 5_000, in_points: false, better: false } },
  })
  expect(worse.page.get('.worse').text()).toBe('▲ 50 %')
  const better = await cell({
    moved: { cost_total: { by: -12.4, units: -1, in_points: true, better: true } },
  })
  expect(better.page.get('.better').text()).toBe('▼ 12.4')
  const neither = await cell({
    before: { cost_total: { value: 290 } },
    moved: { cost_total: { by: 4_000, units: 14_710, in_points: false, from_little: true, better: null } },
  })
  expect([neither.page.find('.better').exists(), neither.page.find('.worse').exists()]).toEqual([
    false,
    false,
  ])
  expect(neither.page.text()).toContain('▲ from 3')
  expect(worse.page.get('a.worse').attributes('href')).toContain('/tally/changed?')
  expect((await cell({})).page.find('.sub').exists()).toBe(false)
})

test('Its why is asked for where the row stands', async () => {
  const asset = await cell({}, 'S/B')
  await asset.page.get('button').trigger('click')
  await asset.router.isReady()
  await new Promise((done) => setTimeout(done))
  expect(asset.router.currentRoute.value.query.why).toBe('cost_total~U~S/B')
  expect(asset.page.get('button').classes()).toContain('here')
  const own = await cell({ kind: 'own' }, '/S')
  await own.page.get('button').trigger('click')
  await new Promise((done) => setTimeout(done))
  expect(own.router.currentRoute.value.query.why).toBe('cost_total~U~/S~own')
})
