import { computed } from 'vue'
import { useOrder } from '../common/ledger/useOrder'
import { useAddress } from '../common/useAddress'

/** Which work is asked for, and in which order, as the address has it. */
export function useWorkFilter() {
  const { scope, read } = useAddress()
  /** Open work, unless the address says otherwise. */
  const state = computed(() => read('state') || 'open')
  const order = useOrder({ key: 'window_end', descending: false })
  const filter = computed(() => ({
    scope: scope.value || undefined,
    state: state.value === 'all' ? undefined : state.value,
    kind: read('kind') || undefined,
    rank: read('rank') || undefined,
    crew: read('crew') || undefined,
    source: read('source') || undefined,
    past_window: read('past') === 'yes',
    over_limit: read('over') === 'yes',
    late_waiting: read('chase') === 'yes',
    text: read('text') || undefined,
    sort: order.value?.key as 'window_end',
    descending: order.value?.descending,
  }))
  return { state, order, filter }
}
