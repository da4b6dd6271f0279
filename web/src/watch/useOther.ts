import { useQuery } from '@tanstack/vue-query'
import { type Ref, computed } from 'vue'
import { answer, api, type MeterDetail } from '../common/api'
import { useAddress } from '../common/useAddress'
import type { View } from '../common/chart/geometry'

/** Another meter's readings, to be laid over a trend. */
export interface OtherSeries {
  name: string
  unit: string
  points: [number, number][]
}

/** Another meter of the same asset or near it over the same time, as the address names it. */
export function useOther(meter: () => MeterDetail, view: Ref<View>) {
  const { read, change } = useAddress()
  const chosen = computed({
    get: () => read('over'),
    set: (code) => void change({ over: code }),
  })
  // What explains a part is often read on what it belongs to: the meters of its parent and of all below that.
  const beside = useQuery({
    queryKey: ['meters', 'beside', () => meter().asset.code],
    queryFn: async () => {
      const asset = await answer(
        api.GET('/api/v1/assets/{code}', { params: { path: { code: meter().asset.code } } }),
      )
      const scope = asset.above.at(-1)?.code ?? asset.code
      return answer(api.GET('/api/v1/meters', { params: { query: { scope, limit: 100 } } }))
    },
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
