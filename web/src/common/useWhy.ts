import { computed } from 'vue'
import { useAddress } from './useAddress'

/** A row of the tally whose figure is explained. */
export interface WhyOf {
  /** Code of the asset, or of the one whose part it is. */
  asset: string
  /** The rows it stands in, where alone it counts. */
  under?: string
  /** Its own, or what was formerly here, instead of all of it. */
  part?: 'own' | 'formerly_here'
}

/** Which figure's why is open: an indicator of a row, kept in the address. */
export function useWhy() {
  const { read, change } = useAddress()
  const asked = computed(() => {
    const [indicator, asset, under, part] = read('why').split('~')
    if (!indicator || !asset) return undefined
    const parts = { own: 'own', formerly_here: 'formerly_here' } as const
    return {
      indicator,
      asset,
      under: under || undefined,
      part: part ? parts[part as keyof typeof parts] : undefined,
    }
  })
  const open = (indicator: string, { asset, under, part }: WhyOf) =>
    change({ why: [indicator, asset, under ?? '', part ?? ''].join('~').replace(/~+$/, '') })
  const close = () => change({ why: '' })
  return { asked, open, close }
}
