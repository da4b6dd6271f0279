// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test, vi } from 'vitest'
import type { WorkDetail } from '../common/api'
import { mounted, served } from '../common/mounted'
import PlanForm from './PlanForm.vue'

const work = {
  number: 1001,
  title: 'Grease it',
  text: '',
  kind: 'inspection',
  risk_rank: 3,
  crew: 'red',
  assignee: 'Tess Vale',
  estimated_hours: 2.5,
  scheduled_start: '2026-03-02T07:00:00Z',
  scheduled_end: '2026-03-02T09:00:00Z',
} as unknown as WorkDetail
const PATCH = '/api/v1/work-orders/1001'

let stop = () => {}
afterEach(() => stop())

async function shown(answer: unknown = {}) {
  const people = [
    { code: 'tess', name: 'Tess Vale' },
    { code: 'ole', name: 'Ole Marsh' },
  ]
  const server = served({
    [`PATCH ${PATCH}`]: answer,
    'GET /api/v1/people': { people },
    'GET /api/v1/crews': [
      { code: 'red', name: 'Red crew' },
      { code: 'blue', name: 'Blue crew' },
    ],
  })
  stop = server.stop
  const { page } = await mounted(PlanForm, { work })
  await flushPromises()
  const sent = async () => {
    await page.get('form').trigger('submit')
    await vi.waitFor(() => expect(server.asked.some((one) => one.method === 'PATCH')).toBe(true))
    return server.asked.find((one) => one.method === 'PATCH')?.body
  }
  return { page, sent }
}

test('Only what was changed is sent, a person by the code', async () => {
  const { page, sent } = await shown()
  expect(page.get('[data-test=plan-save]').attributes('disabled')).toBeDefined()
  await page.get('[name=rank]').setValue('2')
  await page.get('[name=assignee]').setValue('Ole Marsh')
  expect(await sent()).toEqual({ risk_rank: 2, assignee: 'ole' })
})

test('What is emptied is taken away, a schedule as a whole', async () => {
  const { page, sent } = await shown()
  await page.get('[name=crew]').setValue('')
  await page.get('[name=estimated]').setValue('')
  await page.get('[name=scheduled-start]').setValue('')
  await page.get('[name=scheduled-end]').setValue('')
  expect(await sent()).toEqual({ clear: ['crew', 'estimated_hours', 'schedule'] })
})

test('What the server refuses stands at its field, and what was typed stays', async () => {
  const refused = {
    detail: 'x',
    errors: [{ field: 'title', reason: 'say in a few words what is to be done' }],
  }
  const { page, sent } = await shown(new Response(JSON.stringify(refused), { status: 422 }))
  await page.get('[name=title]').setValue('  ')
  await sent()
  await vi.waitFor(() => expect(page.text()).toContain('say in a few words'))
  expect((page.get('[name=title]').element as HTMLInputElement).value).toBe('  ')
})
