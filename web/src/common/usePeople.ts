import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api } from './api'

/** Everybody, and the code of who is acting. */
export function usePeople() {
  const { data, error } = useQuery({ queryKey: ['people'], queryFn: () => answer(api.GET('/api/v1/people')) })
  return {
    people: computed(() => data.value?.people ?? []),
    acting: computed(() => data.value?.acting ?? ''),
    error,
  }
}
