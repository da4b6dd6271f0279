import { replay as replayAsked } from './queries/meters'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { type MaybeRefOrGetter, type Ref, computed, shallowRef, toValue, watch } from 'vue'
import { type Ladder } from '../common/api'
import { usePaced } from '../common/usePaced'
import type { View } from '../common/chart/geometry'
import { useJudging } from './useJudging'

/**
 * What the edited ladder would have done in the period, its alarms drawn for what is in view. It follows the hand: the last
 * answer stands until the next.
 */
export function useReplay(
  meter: MaybeRefOrGetter<string>,
  draft: Ref<Ladder>,
  period: Ref<string>,
  view: Ref<View | undefined>,
) {
  const { judging } = useJudging()
  const drawn = computed(() => {
    const [from, to] = [view.value?.from, view.value?.to].map((ms) => ms && new Date(ms).toISOString())
    return from && to ? { from, to } : undefined
  })
  const wanted = computed(() => ({ ...judging.value, drawn: drawn.value, ladder: draft.value }))
  type Asked = typeof wanted.value
  const { asked, follow } = usePaced(computed(() => JSON.stringify(wanted.value)))
  const { data, error, isFetching } = useQuery(() => ({
    ...replayAsked(toValue(meter), { period: period.value, ...(JSON.parse(asked.value) as Asked) }),
    enabled: draft.value.rungs.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  }))
  follow(isFetching)
  const replay = computed(() => (draft.value.rungs.length ? data.value : undefined))
  /** The last answer there was for this meter: it stays in sight while limits that cannot be are passed through. */
  const last = shallowRef(replay.value)
  watch(
    [replay, () => toValue(meter)],
    ([now, code], [, before]) => (last.value = now ?? (code === before ? last.value : undefined)),
  )
  return { replay, last, error }
}
