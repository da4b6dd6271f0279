import { useQueryClient } from '@tanstack/vue-query'
import { useDocumentVisibility, useEventListener, useThrottleFn } from '@vueuse/core'
import { onBeforeUnmount, watch } from 'vue'
import { person } from './api'

/** What a kept change touched, as the server tells it. */
interface News {
  meters: string[]
  alarms: boolean
  work: boolean
}

/** However fast readings come, what is shown is read again no oftener than this, in milliseconds. */
const AT_MOST_EVERY = 1_000

/** First words of the queries that each kind of news makes old. */
const OF_READINGS = ['meter', 'meters', 'series', 'replay', 'forecast', 'reading-list', 'clock']
const OF_ALARMS = ['alarms', 'meter-alarms', 'alarm-performance', 'lanes', 'assets', 'start']
const OF_WORK = ['work-orders', 'work-order', 'lanes', 'assets', 'start', 'outbox']

/** Listens to the server, and reads again what changed elsewhere. */
export function useLive() {
  const client = useQueryClient()
  const old = new Set<string>()
  const readAgain = useThrottleFn(
    () => {
      const keys = new Set(old)
      old.clear()
      return client.invalidateQueries({ predicate: ({ queryKey }) => keys.has(String(queryKey[0])) })
    },
    AT_MOST_EVERY,
    true,
  )
  let source: EventSource | undefined
  function close() {
    source?.close()
    source = undefined
  }
  function everything() {
    ;[...OF_READINGS, ...OF_ALARMS, ...OF_WORK].forEach((key) => old.add(key))
    void readAgain()
  }
  function open(who: string) {
    close()
    source = new EventSource(`/api/v1/live?person=${encodeURIComponent(who)}`)
    source.onmessage = ({ data }) => {
      const news = JSON.parse(data as string) as News
      if (news.meters.length) OF_READINGS.forEach((key) => old.add(key))
      if (news.alarms) OF_ALARMS.forEach((key) => old.add(key))
      if (news.work) OF_WORK.forEach((key) => old.add(key))
      void readAgain()
    }
    source.addEventListener('missed', everything)
  }
  // A browser has few connections to one server: pages that nobody looks at give theirs back.
  const visibility = useDocumentVisibility()
  watch(
    [person, visibility],
    ([who, now], [, before]) => {
      if (now !== 'visible') return close()
      open(who)
      if (before === 'hidden') everything()
    },
    { immediate: true },
  )
  useEventListener(window, 'pagehide', close)
  onBeforeUnmount(close)
}
