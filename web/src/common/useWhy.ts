import { computed } from 'vue'
import { useAddress } from './useAddress'

/** Which figure's why is open: an indicator at an asset, kept in the address. */
export function useWhy() {
  const { read, change } = useAddress()
  const asked = computed(() => {
    const [indicator, asset] = read('why').split('~')
    return indicator && asset ? { indicator, asset } : undefined
  })
  const open = (indicator: string, asset: string) => change({ why: `${indicator}~${asset}` })
  const close = () => change({ why: '' })
  return { asked, open, close }
}
