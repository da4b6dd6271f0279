import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { Problem } from '../api'

/**
 * A change on the server after which everything shown is read again. `problem` names the fields at fault.
 */
export function useChange<T, Given = void>(send: (given: Given) => Promise<T>, then?: () => void) {
  const client = useQueryClient()
  const { mutate, error, isPending, reset } = useMutation({
    mutationFn: send,
    onSuccess: async () => {
      then?.()
      await client.invalidateQueries()
    },
    // Somebody was first: what they did is shown.
    onError: (wrong) =>
      wrong instanceof Problem && wrong.status === 409 ? client.invalidateQueries() : undefined,
  })
  const problem = computed(() => (error.value instanceof Problem ? error.value : undefined))
  return { mutate, error, problem, isPending, reset }
}
