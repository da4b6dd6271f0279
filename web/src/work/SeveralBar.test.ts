// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test, vi } from 'vitest'
import { lastChange } from '../common/change/undo'
import { mounted, served } from '../common/mounted'
import SeveralBar from './SeveralBar.vue'

const POST = '/api/v1/work-orders/several'
const told = {
  batch: 5,
  done: 1,
  refused: 1,
  orders: [
    {
      number: 1001,
      title: 'One',
      refused: null,
      changes: [{ field: 'state', from: 'planning', to: 'ready' }],
    },
    { number: 1002, title: 'Two', refused: 'work that is closed cannot become ready', changes: [] },
    { number: 1003, title: 'Three', refused: null, changes: [] },
  ],
}

let stop = () => {}
afterEach(() => {
  stop()
  lastChange.value = undefined
})

async function shown() {
  const server = served({
    [`POST ${POST}`]: told,
    'GET /api/v1/people': { people: [{ code: 'tess', name: 'Tess' }] },
    'GET /api/v1/crews': [{ code: 'red', name: 'Red crew' }],
  })
  stop = server.stop
  const { page } = await mounted(SeveralBar, { orders: [1001, 1002, 1003] })
  const settle = async () => {
    await vi.waitFor(() => expect(page.find('[data-test=several-says]').exists()).toBe(true))
    await flushPromises()
  }
  const posted = () => server.asked.filter((one) => one.method === 'POST')
  return { page, settle, posted }
}

test('What it would do stands there before it is done, one by one', async () => {
  const { page, settle, posted } = await shown()
  await settle()
  expect(page.get('[data-test=several-says]').text()).toBe('1 order changes, 1 can’t, 1 is so already.')
  const lines = page.findAll('li').map((line) => line.text())
  expect(lines[0]).toContain('state planning → ready')
  expect(lines[1]).toContain('work that is closed cannot become ready')
  expect(posted().every((one) => one.path.includes('dry_run=true'))).toBe(true)
})

test('Only what is whole is asked, and no crew is told from none chosen', async () => {
  const { page, settle, posted } = await shown()
  await settle()
  await page.get('[name=deed]').setValue('crew')
  await vi.waitFor(() => expect(page.find('[data-test=several-says]').exists()).toBe(false))
  expect(page.get('[data-test=several-do]').attributes('disabled')).toBeDefined()
  await page.get('[name=several-crew]').setValue('none')
  await settle()
  expect(posted().at(-1)?.body).toEqual({ orders: [1001, 1002, 1003], change: { clear: ['crew'] } })
})

test('What was done can be taken back by its batch', async () => {
  const { page, settle, posted } = await shown()
  await settle()
  await page.get('form').trigger('submit')
  await vi.waitFor(() => expect(lastChange.value?.says).toBe('1 order changed'))
  expect(lastChange.value?.takes.given).toEqual({ batch: 5 })
  expect(posted().at(-1)?.body).toEqual({ orders: [1001, 1002, 1003], to: { to: 'ready' } })
})
