import { refDebounced } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useAddress } from './useAddress'

/** A pause in typing after which the address follows, in milliseconds. */
const PAUSE = 200

/**
 * What is typed into a search field. The address follows after a pause, without a step of history for each; going back, or
 * a link, changes the field.
 */
export function useSearch(key = 'text') {
  const { read, change } = useAddress()
  const text = ref(read(key))
  let written = text.value
  watch(refDebounced(text, PAUSE), (asked) => {
    if (asked === read(key)) return
    written = asked
    return change({ [key]: asked }, { replace: true })
  })
  watch(
    () => read(key),
    (now) => {
      // What is still being typed is newer than what was written before.
      if (now !== written) text.value = now
      written = now
    },
  )
  return text
}
