// @vitest-environment happy-dom
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { type Client, between } from '../api'
import { change, command, kindOf } from '../change/registry'
import { session } from '../session/session'
import { forget } from './kept'
import {
  type Queued,
  anyway,
  enqueue,
  leaveOut,
  loadQueue,
  queue,
  sendQueue,
  told,
  withQueued,
} from './queue'

interface Note {
  order: number
  words: string
  at?: string
}

const note = change(
  'test.note',
  {},
  (api: Client, { order, words, at }: Note) =>
    api.POST('/api/v1/work-orders/{number}/comments', {
      params: { path: { number: order } },
      body: { text: words, at } as never,
    }),
  undefined,
  {
    says: ({ words }) => words,
    order: ({ order }) => order,
    stamped: (given, at, anew) => ({ ...given, at: anew ? at : (given.at ?? at) }),
    shows: ({ given, key, data }) =>
      key[0] === 'notes' && key[1] === given.order ? [...(data as string[]), given.words] : data,
    tells: (done) => ((done as { late?: boolean } | undefined)?.late ? 'It came late' : undefined),
  },
)
const AT = '2026-03-02T06:00:00.000Z'

/** A server that does what comes under a key once, and a network that fails on the way there or on the way back. */
function flaky(fails: () => 'there' | 'back' | undefined, answers: (text: string) => number = () => 204) {
  const done: string[] = []
  const keys = new Map<string, number>()
  const middleware = {
    async onRequest({ request }: { request: Request }) {
      const failed = fails()
      if (failed === 'there') throw new TypeError('Failed to fetch')
      const key = request.headers.get('idempotency-key') ?? ''
      const { text } = (await request.clone().json()) as { text: string }
      const status = keys.get(key) ?? answers(text)
      if (!keys.has(key) && status < 300) done.push(text)
      if (status < 300) keys.set(key, status)
      if (failed === 'back') throw new TypeError('Failed to fetch')
      return new Response(
        status === 204
          ? null
          : JSON.stringify({ detail: `no ${text}`, late: text === 'late', is_done: text === 'done' }),
        { status },
      )
    },
  }
  between.push(middleware)
  stop = () => between.splice(between.indexOf(middleware), 1)
  return done
}
let stop: () => unknown = () => undefined

/** Somebody is at the keyboard. */
const sign = (code: string) => {
  session.value = { signed_in: { code, name: code } } as typeof session.value
}
/** The page is loaded anew: only what was kept is left. */
async function reloaded() {
  queue.value = []
  await loadQueue()
}
const wait = (words: string, order = 1) => enqueue(command(note, { order, words }), AT)
const words = () => queue.value.map((one: Queued) => one.says)

beforeEach(async () => {
  await forget('queue')
  await loadQueue()
  sign('tess')
})
afterEach(() => stop())

describe('what waits for the network', () => {
  it('goes out once, in its order, however the network fails and the page is loaded anew', async () => {
    for (let seed = 1; seed <= 200; seed += 1) {
      let state = seed
      // A linear congruential generator (Numerical Recipes' constants, from memory): the same rounds each time.
      const drawn = (of: number) => {
        state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
        return Math.floor((state / 2 ** 32) * of)
      }
      let isOver = false
      const done = flaky(() => (isOver ? undefined : ([undefined, 'there', 'back'] as const)[drawn(3)]))
      const wanted: string[] = []
      const steps = 3 + drawn(8)
      for (let step = 0; step < steps; step += 1) {
        const deed = drawn(4)
        if (deed < 2) {
          wanted.push(`${seed}.${step}`)
          await wait(`${seed}.${step}`, 1 + drawn(2))
        } else if (deed === 2) await reloaded()
        else await sendQueue()
      }
      isOver = true
      await reloaded()
      await sendQueue()
      expect(done, `seed ${seed}`).toEqual(wanted)
      expect(queue.value).toEqual([])
      stop()
    }
  })

  it('holds back what comes after a refusal of the same order, and nothing else', async () => {
    let refuses = true
    const done = flaky(
      () => undefined,
      (text) => (refuses && text === 'start' ? 409 : 204),
    )
    await wait('start')
    await wait('tick')
    await wait('another', 2)
    await sendQueue()
    expect(done).toEqual(['another'])
    expect(words()).toEqual(['start', 'tick'])
    expect(queue.value[0]?.refused).toBe('no start')
    const before = queue.value[0]!.command.key
    refuses = false
    await anyway(queue.value[0]!, '2026-03-02T10:00:00.000Z')
    expect(queue.value[0]!.command.key).not.toBe(before)
    expect((queue.value[0]!.command.given as Note).at).toBe('2026-03-02T10:00:00.000Z')
    await sendQueue()
    expect(done).toEqual(['another', 'start', 'tick'])
  })

  it('is based on what waits before it, and else on what was seen', async () => {
    await enqueue({ ...command(note, { order: 1, words: 'start' }), base: 4 }, AT)
    await enqueue({ ...command(note, { order: 1, words: 'done' }), base: 4 }, AT)
    await enqueue({ ...command(note, { order: 2, words: 'other' }), base: 9 }, AT)
    expect(queue.value.map((one) => one.command.base)).toEqual([4, undefined, 9])
  })

  it('is left out when somebody says so, and then the rest goes on', async () => {
    const done = flaky(
      () => undefined,
      (text) => (text === 'start' ? 422 : 204),
    )
    await wait('start')
    await wait('tick')
    await sendQueue()
    await leaveOut(queue.value[0]!)
    await sendQueue()
    expect(done).toEqual(['tick'])
  })

  it('is done where the server says that only its answer is lost', async () => {
    flaky(
      () => undefined,
      () => 409,
    )
    await wait('done')
    await sendQueue()
    expect(queue.value).toEqual([])
  })

  it('is sent by nobody else who uses the same browser', async () => {
    const done = flaky(() => undefined)
    await wait('of tess')
    sign('tom')
    await sendQueue()
    expect([done, words()]).toEqual([[], ['of tess']])
    expect(withQueued(['notes', 1], [])).toEqual([])
    sign('tess')
    await sendQueue()
    expect(done).toEqual(['of tess'])
  })

  it('is shown as done, of the order that it is about', async () => {
    await wait('one')
    await wait('two')
    expect(withQueued(['notes', 1], ['before'])).toEqual(['before', 'one', 'two'])
    expect(withQueued(['notes', 2], [])).toEqual([])
    expect(kindOf(queue.value[0]!.command).name).toBe('test.note')
  })

  it.each([503, 500, 429, 408, 401])('stays where the server has no answer to it: %d', async (status) => {
    const done = flaky(
      () => undefined,
      () => status,
    )
    await wait('one')
    await sendQueue()
    expect([done, words(), queue.value[0]?.refused]).toEqual([[], ['one'], undefined])
  })

  it('tells what the server said of what came late', async () => {
    flaky(
      () => undefined,
      () => 200,
    )
    await wait('late')
    await sendQueue()
    expect(told.value).toEqual(['It came late'])
  })
})
