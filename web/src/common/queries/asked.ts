import { type QueryFunctionContext, type QueryKey, queryOptions } from '@tanstack/vue-query'
import { Problem, answer } from '../api'
import type { Topic } from '../live/news'
import { read, write } from '../offline/kept'
import { withQueued } from '../offline/queue'

type Call<T> = Promise<{ data?: T; error?: unknown; response: Response }>

/** A question to the server: by which key it is known, what makes its answer old, and how it is asked. */
export function asked<T>(key: readonly unknown[], on: Topic[], call: (signal: AbortSignal) => Call<T>) {
  return queryOptions({ queryKey: key, queryFn: ({ signal }) => answer(call(signal)), meta: { on } })
}

/**
 * The same, of what is needed where there is no network: the last answer is kept in the browser and stands in for the server
 * while that does not answer; what waits to be sent is shown as done.
 */
export function askedOffline<T>(
  key: readonly unknown[],
  on: Topic[],
  call: (signal: AbortSignal) => Call<T>,
) {
  const queryFn = async ({ signal }: { signal: AbortSignal }) =>
    withQueued(key, await orKept(key, call(signal)))
  return queryOptions({ queryKey: key, queryFn, meta: { on }, networkMode: 'always' as const, retry: false })
}

/** Under which name an answer is kept. */
export const keptAs = (key: readonly unknown[]) => `answer ${JSON.stringify(key)}`

/** Keeps an answer that came in another way. */
export const keep = (key: readonly unknown[], data: unknown) => write(keptAs(key), data)

/** What is the same for all is kept; of single things only what was taken along, not whatever somebody looked at. */
async function keepAnew(key: readonly unknown[], data: unknown) {
  if (key.length === 1 || (await read(keptAs(key))) !== undefined) await keep(key, data)
}

async function orKept<T>(key: readonly unknown[], call: Call<T>): Promise<T> {
  try {
    const data = await answer(call)
    void keepAnew(key, data)
    return data
  } catch (problem) {
    const kept = problem instanceof Problem && problem.status === 0 ? await read<T>(keptAs(key)) : undefined
    if (kept === undefined) throw problem
    return kept
  }
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
