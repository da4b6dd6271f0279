// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test } from 'vitest'
import type { WorkDetail } from '../common/api'
import { mounted, served } from '../common/mounted'
import StateMoves from './StateMoves.vue'

const ask = (field: string, required = false) => ({ field, required })
const work = (given: object) =>
  ({
    number: 1001,
    state: 'under_way',
    change: 7,
    is_over: false,
    waiting_meters: [],
    moves: [],
    ...given,
  }) as unknown as WorkDetail
const POST = '/api/v1/work-orders/1001/state'

let stop = () => {}
afterEach(() => stop())

async function shown(given: object) {
  const server = served({ [`POST ${POST}`]: {}, 'GET /api/v1/people': { people: [] } })
  stop = server.stop
  const { page } = await mounted(StateMoves, { work: work(given) })
  const moves = () => server.asked.filter((one) => one.method === 'POST')
  return { page, moves }
}

test('A move that asks for nothing is made at once, based on what was seen', async () => {
  const { page, moves } = await shown({
    moves: [
      { to: 'ready', asks: [], ahead: false, ends: false },
      { to: 'done', asks: [ask('at'), ask('note')], ahead: true, ends: false },
    ],
  })
  expect(page.get('[data-test=move-done]').classes()).toContain('el-button--primary')
  expect(page.get('[data-test=move-ready]').classes()).not.toContain('el-button--primary')
  await page.get('[data-test=move-ready]').trigger('click')
  await flushPromises()
  expect(moves()).toEqual([{ method: 'POST', path: `${POST}?based_on=7`, body: { to: 'ready' } }])
  page.unmount()
})

test('Only what a move asks for is shown and goes out with it', async () => {
  const { page, moves } = await shown({
    moves: [
      {
        to: 'waiting',
        asks: [ask('waiting_for', true), ask('expected_until'), ask('note')],
        ahead: false,
        ends: false,
      },
      {
        to: 'returned',
        asks: [ask('question', true), ask('asked', true), ask('note')],
        ahead: false,
        ends: false,
      },
    ],
  })
  await page.get('[data-test=move-waiting]').trigger('click')
  expect(page.findAll('form select').length).toBe(1)
  await page.get('[name=note]').setValue('No seals left')
  // Another move begins with nothing typed.
  await page.get('[data-test=move-returned]').trigger('click')
  expect((page.get('[name=note]').element as HTMLInputElement).value).toBe('')
  expect(page.find('[name=asked]').exists()).toBe(true)
  await page.get('[data-test=move-waiting]').trigger('click')
  await page.get('form').trigger('submit')
  await flushPromises()
  expect(moves().map((one) => one.body)).toEqual([{ to: 'waiting', waiting_for: 'parts' }])
  page.unmount()
})

test('What ends work names it, and says that it needs a reason', async () => {
  const { page, moves } = await shown({
    moves: [{ to: 'dropped', asks: [ask('note', true)], ahead: false, ends: true }],
  })
  await page.get('[data-test=move-dropped]').trigger('click')
  expect(page.get('[data-test=move-confirm]').text()).toBe('Drop work 1001')
  expect(page.get('[name=note]').attributes('aria-required')).toBe('true')
  expect(moves()).toEqual([])
  page.unmount()
})

test('Work that others move says so; work that is over says nothing', async () => {
  const others = await shown({ moves: [] })
  expect(others.page.text()).toContain('somebody else’s to do')
  others.page.unmount()
  stop()
  const over = await shown({ moves: [], is_over: true, state: 'closed' })
  expect(over.page.text()).toBe('')
  over.page.unmount()
})
