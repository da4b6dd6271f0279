import { clock as clockAsked, settings as settingsAsked } from './queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { ref, watchEffect } from 'vue'
import { type Settings } from './api'

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

/** Keeps both current. */
export function useInstallation() {
  const settings = useQuery(settingsAsked())
  const clock = useQuery({ ...clockAsked(), refetchInterval: 60_000 })
  watchEffect(() => {
    if (settings.data.value) installation.value = settings.data.value
    if (clock.data.value) now.value = Date.parse(clock.data.value.now)
  })
  return { ready: settings.isSuccess, error: settings.error, refetch: settings.refetch }
}
