import { clock as clockAsked, settings as settingsAsked } from './queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { ref, watch, watchEffect } from 'vue'
import { type Settings } from './api'
import { isCut } from './offline/network'

/** What holds for the whole installation; first values until the server has answered. */
export const installation = ref<Settings>({
  name: 'Fair Tally',
  currency: 'EUR',
  minor_digits: 2,
  fiscal_month: 1,
  time_zone: 'UTC',
  locale: 'en-GB',
  rank_windows: [2, 7, 28, 90, 180],
})

/** The server's instant in milliseconds: the demo has a day of its own. */
export const now = ref(Date.now())

/** It goes on; in tests it may stand. */
export const clockRuns = ref(false)

/** How far the installation's clock was ahead of the browser's when the server answered last, in milliseconds. */
const offset = useLocalStorage('fair-tally-clock', 0)

/** How often the clock is looked at, in milliseconds. */
const TICK = 5_000

/** Keeps both current. */
export function useInstallation() {
  const settings = useQuery(settingsAsked())
  const clock = useQuery({ ...clockAsked(), refetchInterval: 60_000 })
  watchEffect(() => {
    if (settings.data.value) installation.value = settings.data.value
  })
  watch(
    clock.data,
    (told) => {
      if (!told) return
      clockRuns.value = told.runs
      // An answer that was kept says nothing of now.
      if (!isCut.value) offset.value = Date.parse(told.now) - Date.now()
      now.value = told.runs ? Date.now() + offset.value : Date.parse(told.now)
    },
    { immediate: true },
  )
  useIntervalFn(() => {
    if (clockRuns.value) now.value = Date.now() + offset.value
  }, TICK)
  return { ready: settings.isSuccess, error: settings.error, refetch: settings.refetch }
}
