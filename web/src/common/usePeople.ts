import { people as peopleAsked } from './queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { components } from '../generated/api'

export type Topic = components['schemas']['Topic']

/** Whether the acting person sees a topic; until it is known, everything is shown and the server decides. */
export const seesTopic = (sees: Topic[] | undefined, topic: Topic) =>
  sees === undefined || sees.includes(topic)

/** Everybody, the code of who is acting, and what that one sees. */
export function usePeople() {
  const { data, error } = useQuery(peopleAsked())
  return {
    people: computed(() => data.value?.people ?? []),
    acting: computed(() => data.value?.acting ?? ''),
    sees: computed(() => data.value?.sees),
    error,
  }
}
