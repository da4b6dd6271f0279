// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test, vi } from 'vitest'
import { h } from 'vue'
import type { AlarmRow } from '../common/api'
import { mounted, served } from '../common/mounted'
import { carryOut } from '../common/change/registry'
import { lastChange } from '../common/change/undo'
import { useAcknowledge } from './useAcknowledge'

const alarm = (id: number, name: string) =>
  ({ id, meter_name: name, asset: { code: 'G1', name: 'Gearbox one' } }) as unknown as AlarmRow
const PATH = '/api/v1/alarms/acknowledge'

let stop = () => {}
afterEach(() => stop())

async function acknowledging(answer: unknown) {
  const server = served({ [`POST ${PATH}`]: answer, [`POST ${PATH}/take-back`]: {} })
  stop = server.stop
  lastChange.value = undefined
  const done = vi.fn()
  let use!: ReturnType<typeof useAcknowledge>
  await mounted({ setup: () => ((use = useAcknowledge('/alarms', done)), () => h('p')) }, {})
  return { server, done, use }
}

test('What was acknowledged can be taken back, by name or by number', async () => {
  const { server, done, use } = await acknowledging({ seen: 1 })
  use.acknowledge([alarm(7, 'Vibration')])
  await flushPromises()
  expect(done).toHaveBeenCalledOnce()
  expect(lastChange.value).toMatchObject({ says: 'Acknowledged: Gearbox one, Vibration', within: '/alarms' })
  use.acknowledge([alarm(7, 'Vibration'), alarm(8, 'Oil')])
  await flushPromises()
  expect(lastChange.value?.says).toBe('2 alarms acknowledged')
  await carryOut(lastChange.value!.takes)
  expect(server.asked.map(({ path, body }) => [path, body])).toEqual([
    [PATH, { ids: [7] }],
    [PATH, { ids: [7, 8] }],
    [`${PATH}/take-back`, { ids: [7, 8] }],
  ])
})

test('What was refused is not offered to be taken back', async () => {
  const refused = new Response(JSON.stringify({ detail: 'a viewer may not acknowledge alarms' }), {
    status: 403,
  })
  const { done, use } = await acknowledging(refused)
  use.acknowledge([alarm(7, 'Vibration')])
  await flushPromises()
  expect(lastChange.value).toBeUndefined()
  expect(done).not.toHaveBeenCalled()
  expect(String(use.error.value)).toContain('a viewer may not acknowledge alarms')
})
