import { computed } from 'vue'
import { useAddress } from '../useAddress'
import type { LedgerOrder } from './columns'

/** A ledger's order as the address has it, so that a link shows the same; `usual` where it says nothing. */
export function useOrder(usual?: LedgerOrder) {
  const { read, change } = useAddress()
  return computed<LedgerOrder | undefined>({
    get: () => (read('sort') ? { key: read('sort'), descending: read('desc') === 'yes' } : usual),
    set: (order) => void change({ sort: order?.key ?? '', desc: order?.descending ? 'yes' : '' }),
  })
}
