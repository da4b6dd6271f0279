import { onScopeDispose, ref, watch } from 'vue'
import { isWaiting, whatWaits } from '../offline/files'

/**
 * Pictures of files that wait in this browser for the network, by the names that stand for them; of those that the server got
 * since, by what `there` makes of the name it gave them.
 */
export function useWaitingPictures(names: () => string[], there: (file: string) => string) {
  const shown = ref<Record<string, string>>({})
  const made: string[] = []
  onScopeDispose(() => made.forEach((url) => URL.revokeObjectURL(url)))
  watch(
    () => names().filter((name) => isWaiting(name) && !(name in shown.value)),
    async (unknown) => {
      for (const name of unknown) {
        const found = await whatWaits(name)
        if (found instanceof Blob) made.push((shown.value[name] = URL.createObjectURL(found)))
        else if (found) shown.value[name] = there(found)
      }
    },
    { immediate: true },
  )
  return shown
}
