import { type QueryClient, useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { Problem } from '../api'
import { isOld, nothing } from '../live/news'
import { clockRuns, now } from '../installation'
import { isCut } from '../offline/network'
import { enqueue, isOwn, queue, seen } from '../offline/queue'
import type { Topic } from '../live/news'
import { type ChangeKind, type Command, carryOut, command, kindOf } from './registry'
import { lastChange } from './undo'

/** It waits for the network. */
const WAITS = Symbol('waits')

/** Has the server carry a command out, or keeps it until that answers. What waits already goes out before it. */
async function carriedOut(one: Command) {
  const { queued } = kindOf(one)
  if (!queued) return carryOut(one)
  const at = new Date(now.value).toISOString()
  if (queue.value.some((other) => isOwn(other) && !other.refused)) {
    await enqueue(one, at)
    return WAITS
  }
  try {
    return await carryOut(one)
  } catch (problem) {
    if (!(problem instanceof Problem) || problem.status !== 0) throw problem
    await enqueue(one, at)
    return WAITS
  }
}

/** What is on the screen is shown as if it were done. */
function showDone(client: QueryClient, one: Command) {
  const at = new Date(now.value).toISOString()
  for (const { queryKey, state } of client.getQueryCache().getAll()) {
    const after = state.data === undefined ? undefined : seen(one, at, queryKey, state.data)
    if (after !== state.data) client.setQueryData(queryKey, after)
  }
}

/** Carries commands out, and has what they touched read again. */
export function useCarryOut() {
  const client = useQueryClient()
  return async (one: Command) => {
    const kind = kindOf(one)
    const done = await carriedOut(one)
    if (done === WAITS) {
      showDone(client, one)
      return { done: undefined, readAgain: () => Promise.resolve() }
    }
    const undo = kind.undo?.(one.given, done)
    if (undo) lastChange.value = undo
    const news = { ...nothing(), ...kind.touches(one.given) }
    const readAgain = () =>
      client.invalidateQueries({ predicate: ({ meta }) => isOld(meta?.on as Topic[] | undefined, news) })
    return { done, readAgain }
  }
}

/** Said of now, where that is asked: it may arrive later. A clock that stands says what is now by itself. */
const stamped = <Given, Done>({ queued }: ChangeKind<Given, Done>, given: Given) =>
  (clockRuns.value || isCut.value) && queued?.stamped
    ? (queued.stamped(given, new Date(now.value).toISOString()) as Given)
    : given

/** Whether two things given say the same. */
const alike = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other)

/**
 * A change on the server, after which what it touched is read again. `problem` names the fields at fault. What the server
 * did not answer goes out under the same key when it is sent again unchanged, so that it is not done twice.
 */
export function useChange<Given, Done>(
  kind: ChangeKind<Given, Done>,
  then?: (done: Done, readAgain: () => Promise<void>) => unknown,
) {
  const client = useQueryClient()
  const carry = useCarryOut()
  let unanswered: Command | undefined
  const { mutate, error, isPending, reset } = useMutation({
    mutationFn: async ({ given, base }: { given: () => Given; base?: number }) => {
      const plain = stamped(kind, given())
      const again =
        unanswered && alike(unanswered.given, plain) && unanswered.base === base ? unanswered : undefined
      const one = again ?? command(kind as ChangeKind<Given, unknown>, plain, base)
      unanswered = one
      return carry(one)
    },
    onSuccess: async ({ done, readAgain }) => {
      unanswered = undefined
      await then?.(done as Done, readAgain)
      await readAgain()
    },
    onError: (wrong) => {
      if (!(wrong instanceof Problem)) return undefined
      if (wrong.status !== 0) unanswered = undefined
      // Somebody was first: what they did is shown.
      return wrong.status === 409 ? client.invalidateQueries() : undefined
    },
  })
  const problem = computed(() => (error.value instanceof Problem ? error.value : undefined))
  return {
    /** Sends it; `given` may be asked for at that moment, and refuse what was typed by a `Problem`. */
    mutate: (given: Given | (() => Given), base?: number) =>
      mutate({ given: typeof given === 'function' ? (given as () => Given) : () => given, base }),
    error,
    problem,
    isPending,
    reset,
  }
}
