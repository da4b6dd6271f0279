import { computed } from 'vue'
import { useAddress } from '../common/useAddress'
import { type Chosen, addressOf, chosenOf } from '../common/list/asked'

/** What is chosen of a list, in the address, so that a link shows the same. */
export function useChosen() {
  const { read, change } = useAddress()
  const chosen = computed(() => chosenOf(read('ask')))
  const choose = (next: Chosen) => change({ ask: addressOf(next) })
  return { chosen, choose }
}
