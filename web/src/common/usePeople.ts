import { people as peopleAsked } from './queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { components } from '../generated/api'

export type Topic = components['schemas']['Topic']
export type Action = components['schemas']['Action']

/** Whether the acting person sees a topic; until it is known, everything is shown and the server decides. */
export const seesTopic = (sees: Topic[] | undefined, topic: Topic) =>
  sees === undefined || sees.includes(topic)

/** Everybody, the code of who is acting, and what that one sees and may do. */
export function usePeople() {
  const { data, error } = useQuery(peopleAsked())
  return {
    people: computed(() => data.value?.people ?? []),
    acting: computed(() => data.value?.acting ?? ''),
    sees: computed(() => data.value?.sees),
    may: computed(() => data.value?.may),
    error,
  }
}
