import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api, Problem } from '../api'
import { forget, read, write } from '../offline/kept'
import { forgetPictures } from '../offline/pictures'
import { signWithPasskey } from './passkeys'
import { type SessionView, asks, session, settle, times } from './session'

/** What the server says of the session; a problem where it does not answer. */
export const unread = ref<unknown>()

/** Under which name the last session is kept. */
const KEPT = 'session'

/** Asks the server who is signed in. */
export async function readSession() {
  const before = times
  try {
    const view = await answer(api.GET('/api/v1/session'))
    unread.value = undefined
    // Somebody signed in meanwhile: that answer is newer.
    if (times !== before) return
    session.value = view
    if (view.signed_in) void write(KEPT, view)
  } catch (problem) {
    // Without a network whoever was here last goes on; the server asks again when it answers.
    const isLost = problem instanceof Problem && problem.status === 0
    const kept = isLost ? await read<SessionView>(KEPT) : undefined
    if (kept && !session.value) session.value = kept
    else unread.value = problem
  }
}

/** Signing in and out, for whoever is at the keyboard. */
export function useSession() {
  const client = useQueryClient()
  const busy = ref(false)
  const error = ref<unknown>()
  const problem = computed(() => (error.value instanceof Problem ? error.value : undefined))

  /** Does one of the ways in; whether it let somebody in. */
  async function enter(way: () => Promise<{ data?: SessionView; error?: unknown; response: Response }>) {
    busy.value = true
    error.value = undefined
    try {
      const before = session.value?.signed_in?.code
      const view = await answer(way())
      session.value = view
      settle(true)
      void write(KEPT, view)
      // What the last one saw is not shown to the next.
      if (before === view.signed_in?.code) void client.invalidateQueries()
      else {
        await Promise.all([forget('answer '), forgetPictures()])
        void client.resetQueries()
      }
      return true
    } catch (problem) {
      error.value = problem
      return false
    } finally {
      busy.value = false
    }
  }

  const signIn = (person: string, password: string) =>
    enter(() => api.POST('/api/v1/session', { body: { person, password } }))
  const byCode = (person: string | undefined, code: string, password: string) =>
    enter(() => api.POST('/api/v1/session/code', { body: { person: person || undefined, code, password } }))
  const byPin = (person: string, pin: string) =>
    enter(() => api.POST('/api/v1/session/pin', { body: { person, pin } }))
  const byPasskey = () =>
    enter(async () => {
      const credential = await signWithPasskey()
      return api.POST('/api/v1/session/passkey', { body: { credential } })
    })
  const asSomebody = (person: string) => enter(() => api.POST('/api/v1/session/demo', { body: { person } }))

  /** Gives the password again; what waits for it goes on. */
  async function again(password: string) {
    busy.value = true
    error.value = undefined
    try {
      await answer(api.POST('/api/v1/session/again', { body: { password } }))
      settle(true)
    } catch (problem) {
      error.value = problem
    } finally {
      busy.value = false
    }
  }

  /** Ends the session; the next screen is that of signing in. */
  async function signOut() {
    // First of all nothing is shown any more, and nothing listens: that the session ends is no surprise then.
    if (session.value) session.value = { ...session.value, signed_in: null }
    client.clear()
    await Promise.all([forget('answer '), forgetPictures(), forget(KEPT)])
    await api.DELETE('/api/v1/session').catch(() => undefined)
    await readSession()
  }

  return { busy, error, problem, signIn, byCode, byPasskey, byPin, asSomebody, again, signOut }
}

/** The session may have ended: asks, and has the person sign in again above what they were doing. */
export async function checkSession() {
  const before = session.value
  await readSession()
  if (!before?.signed_in || session.value?.signed_in) return
  session.value = { ...session.value!, signed_in: before.signed_in }
  asks.value = 'sign_in'
}
