import type { Middleware } from 'openapi-fetch'
import { ref } from 'vue'

/** The server does not answer: there is no network, or none to it. */
export const isCut = ref(false)

/** Hears of every request whether the server answered. */
export const reaching: Middleware = {
  onResponse() {
    isCut.value = false
  },
  onError({ error }) {
    // What is asked no more is no lost network.
    if (!(error instanceof DOMException && error.name === 'AbortError')) isCut.value = true
  },
}
