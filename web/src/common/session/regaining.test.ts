// @vitest-environment happy-dom
import createClient from 'openapi-fetch'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { paths } from '../../generated/api'
import { regaining } from './regaining'
import { asks, settle } from './session'

const refused = (needs: string) => new Response(JSON.stringify({ detail: 'no', needs }), { status: 401 })

/** A server that refuses until something was given, and keeps what was sent. */
function server(needs: string) {
  const bodies: string[] = []
  let isOpen = false
  const fetch = vi.fn(async (request: Request) => {
    bodies.push(await request.text())
    return isOpen ? new Response(JSON.stringify({ saved: true })) : refused(needs)
  })
  vi.stubGlobal('fetch', fetch)
  const client = createClient<paths>({ baseUrl: 'http://tally.test', fetch })
  client.use(regaining())
  return { client, bodies, open: () => (isOpen = true) }
}

describe('what the server refuses for want of a password', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('is sent again as it was, once it was given', async () => {
    const { client, bodies, open } = server('password')
    const answer = client.POST('/api/v1/people', { body: { code: 'x', name: 'X', role: 'viewer' } })
    await vi.waitFor(() => expect(asks.value).toBe('password'))
    open()
    settle(true)
    expect((await answer).data).toEqual({ saved: true })
    expect(bodies).toHaveLength(2)
    expect(bodies[1]).toBe(bodies[0])
    expect(asks.value).toBeUndefined()
  })

  it('stays refused where it was not given', async () => {
    const { client, bodies } = server('password')
    const answer = client.POST('/api/v1/people', { body: { code: 'x', name: 'X', role: 'viewer' } })
    await vi.waitFor(() => expect(asks.value).toBe('password'))
    settle(false)
    expect((await answer).response.status).toBe(401)
    expect(bodies).toHaveLength(1)
  })

  it('is asked for once, however many wait for it, and to sign in goes before the password', async () => {
    const { client, open } = server('sign_in')
    const both = [client.GET('/api/v1/people'), client.GET('/api/v1/crews')]
    await vi.waitFor(() => expect(asks.value).toBe('sign_in'))
    open()
    settle(true)
    expect((await Promise.all(both)).map(({ response }) => response.status)).toEqual([200, 200])
  })

  it('is sent again at once where it was given while that was under way', async () => {
    let answerLate: (answer: Response) => void = () => {}
    const late = new Promise<Response>((resolve) => (answerLate = resolve))
    const fetch = vi.fn(async () => new Response(JSON.stringify({ saved: true })))
    vi.stubGlobal('fetch', fetch)
    const client = createClient<paths>({ baseUrl: 'http://tally.test', fetch: () => late })
    client.use(regaining())
    const answer = client.GET('/api/v1/people')
    settle(true)
    answerLate(refused('sign_in'))
    expect((await answer).data).toEqual({ saved: true })
    expect(asks.value).toBeUndefined()
    expect(fetch).toHaveBeenCalledOnce()
  })

  it('is nothing new to who signs in wrongly', async () => {
    const { client } = server('sign_in')
    const { response } = await client.POST('/api/v1/session', { body: { person: 'x', password: 'y' } })
    expect(response.status).toBe(401)
    expect(asks.value).toBeUndefined()
  })
})
