import { useQueryClient } from '@tanstack/vue-query'
import { useDocumentVisibility, useEventListener, useThrottleFn } from '@vueuse/core'
import { onBeforeUnmount, watch } from 'vue'
import { session } from '../session/session'
import { checkSession } from '../session/useSession'
import type { Topic } from '../live/news'
import { type News, anything, isOld, joined, nothing } from './news'

/** However fast readings come, what is shown is read again no oftener than this, in milliseconds. */
const AT_MOST_EVERY = 1_000

/** Listens to the server, and reads again what changed elsewhere. */
export function useLive() {
  const client = useQueryClient()
  let pending = nothing()
  const readAgain = useThrottleFn(
    () => {
      const news = pending
      pending = nothing()
      return client.invalidateQueries({
        predicate: ({ meta }) => isOld(meta?.on as Topic[] | undefined, news),
      })
    },
    AT_MOST_EVERY,
    true,
  )
  function hear(news: News) {
    pending = joined(pending, news)
    void readAgain()
  }
  let source: EventSource | undefined
  function close() {
    source?.close()
    source = undefined
  }
  function open() {
    close()
    source = new EventSource('/api/v1/live')
    source.onmessage = ({ data }) => hear(JSON.parse(data as string) as News)
    source.addEventListener('missed', () => hear(anything()))
    source.addEventListener('ended', () => {
      close()
      void checkSession()
    })
    let wasOpen = false
    source.onopen = () => {
      // What happened while nobody listened was told to nobody: between the first questions and this moment, or while the
      // connection was broken.
      hear(wasOpen ? anything() : { ...nothing(), alarms: true, work: true })
      wasOpen = true
    }
  }
  // A browser has few connections to one server: pages that nobody looks at give theirs back.
  const visibility = useDocumentVisibility()
  watch(
    [() => session.value?.signed_in?.code, visibility],
    ([who, now], [, before]) => {
      if (now !== 'visible' || !who) return close()
      open()
      if (before === 'hidden') hear(anything())
    },
    { immediate: true },
  )
  useEventListener(window, 'pagehide', close)
  onBeforeUnmount(close)
}
