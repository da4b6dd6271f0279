import type { Middleware } from 'openapi-fetch'
import type { components } from '../../generated/api'
import { regain, times } from './session'

/** How one signs in: what is refused there is shown there. */
const isWayIn = (url: string) =>
  /\/api\/v1\/session(\/code|\/demo|\/again|\/pin|\/passkey(\/ask)?)?$/.test(new URL(url).pathname)

/**
 * What the server refuses because nobody is signed in any more, or the password was given too long ago, is sent once more
 * as it was when that was given. So nothing that was typed is lost.
 */
export function regaining(): Middleware {
  const sent = new WeakMap<Request, { again: Request; before: number }>()
  return {
    onRequest({ request }) {
      if (!isWayIn(request.url)) sent.set(request, { again: request.clone(), before: times })
    },
    async onResponse({ request, response }) {
      const { again, before } = sent.get(request) ?? {}
      if (response.status !== 401 || !again) return undefined
      // It was given while this was under way.
      if (before !== times) return fetch(again)
      const { needs } = (await response
        .clone()
        .json()
        .catch(() => ({}))) as { needs?: components['schemas']['Needs'] }
      if (!needs || !(await regain(needs))) return undefined
      return fetch(again)
    },
  }
}
