// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test } from 'vitest'
import { mounted, served } from '../common/mounted'
import { draftFrom, raiseFrom } from './raised'
import RaiseForm from './RaiseForm.vue'

const order = {
  number: 1001,
  title: 'Grease the bearing',
  text: 'By hand',
  kind: 'predetermined',
  risk_rank: 2,
  estimated_hours: 3,
  asset: { code: 'M1', name: 'Motor 1' },
  job: { code: 'grease' },
}
let stop = () => {}
afterEach(() => stop())

test('the address says what new work begins from', () => {
  expect(raiseFrom('yes')).toBeUndefined()
  expect(raiseFrom('copy-1001')).toEqual({ copy: 1001 })
  expect(raiseFrom('follow-7')).toEqual({ follow: 7 })
  expect(raiseFrom('copy-x')).toBeUndefined()
})

test('a copy says what the order says, what follows on has words of its own', () => {
  const copy = draftFrom(order as never, { copy: 1001 })
  expect(copy).toMatchObject({
    title: order.title,
    text: order.text,
    asset: 'M1',
    hours: 3,
    job_sheet: 'grease',
  })
  expect(draftFrom(order as never, { follow: 1001 })).toMatchObject({
    title: '',
    text: '',
    asset: 'M1',
    risk_rank: 2,
  })
})

test('what follows on is sent with the order before it, and with each asset it is raised on', async () => {
  const server = served({
    'GET /api/v1/work-orders/1001': order,
    'GET /api/v1/job-sheets': [],
    'GET /api/v1/search': [],
    'GET /api/v1/work-orders/already-raised': { count: 0, work_orders: [] },
    'POST /api/v1/work-orders': { number: 1002, also: [1003] },
  })
  stop = server.stop
  const { page } = await mounted(RaiseForm, { from: { follow: 1001 } })
  await flushPromises()
  const form = document.querySelector<HTMLFormElement>('form#raise')!
  const type = (place: number, text: string) => {
    const field = [...form.querySelectorAll<HTMLInputElement>('input')].filter((one) => one.type === 'text')[
      place
    ]!
    field.value = text
    field.dispatchEvent(new Event('input'))
  }
  form.querySelector<HTMLButtonElement>('[data-test=also]')!.click()
  await flushPromises()
  type(1, 'M2')
  type(2, 'Look at it again')
  await flushPromises()
  form.dispatchEvent(new Event('submit', { cancelable: true }))
  await flushPromises()
  expect(server.asked.find((one) => one.method === 'POST')?.body).toMatchObject({
    follows: 1001,
    asset: 'M1',
    also_on: ['M2'],
    title: 'Look at it again',
  })
  page.unmount()
})
