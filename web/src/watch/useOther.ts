import { series as seriesAsked } from '../common/queries/watch'
import { metersBeside } from './queries/meters'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { type Ref, computed } from 'vue'
import { type MeterDetail } from '../common/api'
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
  const beside = useQuery(() => metersBeside(meter().asset.code))
  const choices = computed(() =>
    (beside.data.value?.meters ?? []).filter((one) => one.code !== meter().code && one.kind !== 'grade'),
  )
  const series = useQuery(() => ({
    ...seriesAsked(chosen.value, view.value, 800),
    enabled: chosen.value !== '',
    placeholderData: keepPreviousData,
  }))
  const other = computed<OtherSeries | undefined>(() => {
    const found = choices.value.find((one) => one.code === chosen.value)
    if (!found || !series.data.value) return undefined
    return { name: found.name, unit: found.unit, points: series.data.value.points as [number, number][] }
  })
  return { other, chosen, choices }
}
