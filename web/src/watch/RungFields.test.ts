// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test } from 'vitest'
import { h, ref } from 'vue'
import type { Ladder, MeterDetail } from '../common/api'
import { type Asked, mounted, served } from '../common/mounted'
import RungFields from './RungFields.vue'
import { emptyLadder } from './ladder'

const meter = {
  kind: 'measurement',
  unit: 'bar',
  grades: [],
  last: { value: 10, at: '' },
} as unknown as MeterDetail
const rung = (setpoint: number, more = {}) => ({
  side: 'high',
  severity: 'alert',
  setpoint,
  deadband: 0.5,
  on_delay_seconds: 0,
  off_delay_seconds: 0,
  response: { kind: 'raise' },
  ...more,
})
const PATH = '/api/v1/ladders/edit'

let stop = () => {}
afterEach(() => stop())

async function editing(answer: (asked: Asked) => unknown, begins: Ladder = emptyLadder()) {
  const server = served({ [`POST ${PATH}`]: answer, 'GET /api/v1/people': { people: [] } })
  stop = server.stop
  const draft = ref(begins)
  const Form = {
    render: () =>
      h(RungFields, {
        meter,
        modelValue: draft.value,
        'onUpdate:modelValue': (to: Ladder) => (draft.value = to),
      }),
  }
  const { page } = await mounted(Form, {})
  return { draft, page, asked: () => server.asked.filter((one) => one.path === PATH) }
}

test('A rung more comes with the numbers that the server gives', async () => {
  const { draft, page, asked } = await editing(() => rung(12))
  const add = page.findAll('button').find((one) => one.text() === 'Add a high rung')!
  await add.trigger('click')
  await flushPromises()
  expect(asked()[0]?.body).toEqual({ ladder: emptyLadder(), edit: { edit: 'add', side: 'high' }, last: 10 })
  expect(draft.value.rungs).toEqual([rung(12)])
  expect((page.get('[name=setpoint]').element as HTMLInputElement).value).toBe('12')
  page.unmount()
})

test('A deadband becomes a reset value by the server’s reckoning', async () => {
  const begins = { ...emptyLadder(), rungs: [rung(12)] } as unknown as Ladder
  const { draft, page, asked } = await editing(() => rung(12, { deadband: undefined, reset: 11.5 }), begins)
  const turn = page.findAll('button').find((one) => one.text() === 'Use a reset value')!
  await turn.trigger('click')
  await flushPromises()
  expect(asked()[0]?.body).toMatchObject({ edit: { edit: 'turn', rung: 0 } })
  expect(draft.value.rungs[0]).toMatchObject({ setpoint: 12, reset: 11.5 })
  page.unmount()
})

test('What the server refuses is said, and the draft stays', async () => {
  const refused = () =>
    new Response(JSON.stringify({ detail: 'every severity has a rung on the high side' }), { status: 422 })
  const begins = { ...emptyLadder(), rungs: [rung(12)] } as unknown as Ladder
  const { draft, page } = await editing(refused, begins)
  await page
    .findAll('button')
    .find((one) => one.text() === 'Add a high rung')!
    .trigger('click')
  await flushPromises()
  expect(page.get('[role=alert]').text()).toContain('every severity has a rung on the high side')
  expect(draft.value.rungs).toEqual([rung(12)])
  page.unmount()
})
