import { useQueryClient } from '@tanstack/vue-query'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { onMounted, watch } from 'vue'
import { api } from '../api'
import { session } from '../session/session'
import { forgetOldFiles } from './files'
import { isCut } from './network'
import { isOwn, loadQueue, queue, sendQueue } from './queue'

/** How often it is tried whether the server answers again, in milliseconds. */
const TRY_EVERY = 5_000

/** Sends what waits as soon as the server answers again, and reads anew what is shown. */
export function useQueue() {
  const client = useQueryClient()
  async function send() {
    if (!session.value?.signed_in || !queue.value.some(isOwn)) return
    if (await sendQueue()) await client.invalidateQueries()
  }
  /** The smallest question there is. */
  const tryAgain = () => api.GET('/api/v1/clock').catch(() => undefined)
  async function goOn() {
    await send()
    await client.invalidateQueries()
  }
  watch(isCut, (cut) => {
    if (!cut) void goOn()
  })
  watch([queue, () => session.value?.signed_in?.code], () => {
    if (!isCut.value) void send()
  })
  onMounted(() => {
    void loadQueue().then(send)
    void forgetOldFiles()
  })
  useEventListener(window, 'online', () => void tryAgain())
  useIntervalFn(() => {
    if (isCut.value) void tryAgain()
    else if (queue.value.some((one) => isOwn(one) && !one.refused)) void send()
  }, TRY_EVERY)
  return { send }
}
