import { useQuery } from '@tanstack/vue-query'
import { ref, watchEffect } from 'vue'
import { answer, api, type Settings } from './api'

/** What holds for the whole installation; first values until the server has answered. */
export const installation = ref<Settings>({
  name: 'Fair Tally',
  currency: 'EUR',
  minor_digits: 2,
  fiscal_month: 1,
  time_zone: 'UTC',
  rank_windows: [2, 7, 28, 90, 180],
})

/** The server's instant in milliseconds: the demo has a day of its own. */
export const now = ref(Date.now())

/** Keeps both current. */
export function useInstallation() {
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => answer(api.GET('/api/v1/settings')) })
  const clock = useQuery({
    queryKey: ['clock'],
    queryFn: () => answer(api.GET('/api/v1/clock')),
    refetchInterval: 60_000,
  })
  watchEffect(() => {
    if (settings.data.value) installation.value = settings.data.value
    if (clock.data.value) now.value = Date.parse(clock.data.value.now)
  })
  return { ready: settings.isSuccess, error: settings.error, refetch: settings.refetch }
}
