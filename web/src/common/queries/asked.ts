import { type QueryFunctionContext, type QueryKey, queryOptions } from '@tanstack/vue-query'
import { answer } from '../api'

/** What of the server's news makes an answer old. What is set up makes every answer old. */
export type Topic = 'readings' | 'alarms' | 'work' | `meter:${string}`

type Call<T> = Promise<{ data?: T; error?: unknown; response: Response }>

/** A question to the server: by which key it is known, what makes its answer old, and how it is asked. */
export function asked<T>(key: readonly unknown[], on: Topic[], call: (signal: AbortSignal) => Call<T>) {
  return queryOptions({ queryKey: key, queryFn: ({ signal }) => answer(call(signal)), meta: { on } })
}

/** A list that the server tells in parts, each with a cursor to the next. */
export function inParts<T extends { next_cursor?: string | null }>(
  key: readonly unknown[],
  on: Topic[],
  call: (signal: AbortSignal, cursor: string | undefined) => Call<T>,
) {
  return {
    queryKey: key,
    queryFn: ({ signal, pageParam }: QueryFunctionContext<QueryKey, string>) =>
      answer(call(signal, pageParam || undefined)),
    initialPageParam: '',
    getNextPageParam: (page: T) => page.next_cursor ?? undefined,
    meta: { on },
  }
}
