import { useQuery } from '@tanstack/vue-query'
import { type Ref, computed } from 'vue'
import { answer, api, type MeterDetail } from '../common/api'
import { useAddress } from '../common/useAddress'
import type { View } from './geometry'

/** Another meter's readings, to be laid over a trend. */
export interface OtherSeries {
  name: string
  unit: string
  points: [number, number][]
}

/** Another meter of the same asset (or of its parts) over the same time, as the address names it. */
export function useOther(meter: () => MeterDetail, view: Ref<View>) {
  const { read, change } = useAddress()
  const chosen = computed({
    get: () => read('over'),
    set: (code) => void change({ over: code }),
  })
  const beside = useQuery({
    queryKey: ['meters', 'beside', () => meter().asset.code],
    queryFn: () =>
      answer(api.GET('/api/v1/meters', { params: { query: { scope: meter().asset.code, limit: 100 } } })),
  })
  const choices = computed(() =>
    (beside.data.value?.meters ?? []).filter((one) => one.code !== meter().code && one.kind !== 'grade'),
  )
  const series = useQuery({
    queryKey: ['series', chosen, view],
    queryFn: () =>
      answer(
        api.GET('/api/v1/meters/{code}/readings', {
          params: {
            path: { code: chosen.value },
            query: {
              from: new Date(view.value.from).toISOString(),
              to: new Date(view.value.to).toISOString(),
              points: 800,
            },
          },
        }),
      ),
    enabled: () => chosen.value !== '',
    placeholderData: (before) => before,
  })
  const other = computed<OtherSeries | undefined>(() => {
    const found = choices.value.find((one) => one.code === chosen.value)
    if (!found || !series.data.value) return undefined
    return { name: found.name, unit: found.unit, points: series.data.value.points as [number, number][] }
  })
  return { other, chosen, choices }
}
