import type { Middleware } from 'openapi-fetch'
import { ref } from 'vue'

/** The server does not answer: there is no network, or none to it. */
export const isCut = ref(false)

/** The smallest question there is. */
const SMALLEST = '/api/v1/clock'

let isAsking = false
/** One answer that is lost is no lost network: that is when the smallest question is not answered either. */
async function ask() {
  if (isAsking) return
  isAsking = true
  try {
    await fetch(SMALLEST, { cache: 'no-store' })
  } catch {
    isCut.value = true
  } finally {
    isAsking = false
  }
}

/** Hears of every request whether the server answered. */
export const reaching: Middleware = {
  onResponse() {
    isCut.value = false
  },
  onError({ error }) {
    // What is asked no more is no lost network.
    if (!(error instanceof DOMException && error.name === 'AbortError')) void ask()
  },
}
