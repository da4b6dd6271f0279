// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent } from 'vue'
import { type Client, between } from '../api'
import { mounted, served } from '../mounted'
import { change, command, kindOf } from './registry'
import { lastChange } from './undo'
import { useChange } from './useChange'

const unsay = change('test.unsay', { work: true }, (api: Client, title: string) =>
  api.POST('/api/v1/work-orders', { body: { title } as never }),
)
const say = change(
  'test.say',
  { work: true },
  (api: Client, title: string) => api.POST('/api/v1/work-orders', { body: { title } as never }),
  (title) => ({ says: `Said ${title}`, takes: command(unsay, title), within: '/' }),
)

/** The keys that went out, and a way to answer each request. */
async function sending() {
  const keys: (string | null)[] = []
  let broken = false
  const listens = {
    onRequest({ request }: { request: Request }) {
      keys.push(request.headers.get('idempotency-key'))
      if (broken) throw new TypeError('Failed to fetch')
      return request
    },
  }
  between.unshift(listens)
  const server = served({ 'POST /api/v1/work-orders': { number: 1001 } })
  const then = vi.fn()
  let use!: ReturnType<typeof useChange<string, unknown>>
  const { page } = await mounted(
    defineComponent({
      setup() {
        use = useChange(say, then)
        return () => null
      },
    }),
    {},
  )
  ends = () => {
    page.unmount()
    server.stop()
    between.splice(between.indexOf(listens), 1)
  }
  const send = async (title: string, isBroken = false) => {
    broken = isBroken
    use.mutate(title)
    await flushPromises()
  }
  return { keys, send, use, heard: then }
}
let ends = () => {}
afterEach(() => ends())

describe('a change', () => {
  it('goes out under the same key until it is answered, and under another one when it is another', async () => {
    const { keys, send, use, heard } = await sending()
    await send('Grease it', true)
    expect(use.problem.value?.message).toContain('does not answer')
    await send('Grease it', true)
    await send('Grease it')
    expect(heard).toHaveBeenCalledOnce()
    await send('Grease it')
    await send('Paint it', true)
    await send('Paint the guard')
    expect(keys.every((key) => key && key.length > 20)).toBe(true)
    const [first, second, third, fourth, fifth, sixth] = keys
    expect([first === second, second === third, third === fourth, fourth === fifth, fifth === sixth]).toEqual(
      [true, true, false, false, false],
    )
  })

  it('offers what takes it back, as a command that can be kept', async () => {
    const { send } = await sending()
    await send('Grease it')
    expect(lastChange.value).toMatchObject({ says: 'Said Grease it', takes: { kind: 'test.unsay' } })
    const kept = JSON.parse(JSON.stringify(lastChange.value!.takes))
    expect(kindOf(kept).name).toBe('test.unsay')
  })

  it('has a name of its own, and one that nobody knows is said', () => {
    expect(() => change('test.say', {}, () => Promise.reject(new Error()))).toThrow('two kinds')
    expect(() => kindOf({ kind: 'test.sing', given: 1, key: 'k' })).toThrow('knows no change')
  })
})
