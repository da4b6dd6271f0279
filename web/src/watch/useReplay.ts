import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { type MaybeRefOrGetter, type Ref, computed, toValue } from 'vue'
import { answer, api, type Ladder } from '../common/api'

/** How long a hand may rest before the server is asked again, in milliseconds. */
const REST = 50

/** What the edited ladder would have done in the period. It follows the hand: the last answer stands until the next. */
export function useReplay(meter: MaybeRefOrGetter<string>, draft: Ref<Ladder>, period: Ref<string>) {
  const text = computed(() => JSON.stringify(draft.value))
  const asked = refDebounced(text, REST)
  const { data, error, isFetching } = useQuery({
    queryKey: ['replay', meter, period, asked],
    queryFn: () =>
      answer(
        api.POST('/api/v1/meters/{code}/replay', {
          params: { path: { code: toValue(meter) } },
          body: { period: period.value, ladder: JSON.parse(asked.value) as Ladder },
        }),
      ),
    enabled: () => draft.value.rungs.length > 0,
    placeholderData: (before) => before,
    retry: false,
  })
  const replay = computed(() => (draft.value.rungs.length ? data.value : undefined))
  return { replay, error, isFetching }
}
