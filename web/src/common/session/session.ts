import { ref } from 'vue'
import type { components } from '../../generated/api'

export type SessionView = components['schemas']['SessionView']
export type Named = components['schemas']['Named']

/** Who is signed in, and how one may sign in here; nothing until the server has answered. */
export const session = ref<SessionView>()

/** What the server asks for in the middle of work: to sign in again, or the password again. */
export const asks = ref<components['schemas']['Needs']>()

let waiting: ((given: boolean) => void)[] = []

/** How often it was given: what the server said before the last time, and arrives after it, says nothing any more. */
export let times = 0

/** Waits until what the server asks for was given, or not. Who asks while it is being asked waits for the same. */
export function regain(needs: components['schemas']['Needs']): Promise<boolean> {
  // To sign in is more than the password.
  if (asks.value !== 'sign_in') asks.value = needs
  return new Promise((resolve) => waiting.push(resolve))
}

/** It was given, or it was not. */
export function settle(given: boolean) {
  if (given) times += 1
  const told = waiting
  waiting = []
  asks.value = undefined
  for (const tell of told) tell(given)
}
