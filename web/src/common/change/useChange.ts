import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { Problem } from '../api'
import { isOld, nothing } from '../live/news'
import type { Topic } from '../queries/asked'
import { type ChangeKind, type Command, carryOut, command, kindOf } from './registry'
import { lastChange } from './undo'

/** Carries commands out, and has what they touched read again. */
export function useCarryOut() {
  const client = useQueryClient()
  return async (one: Command) => {
    const kind = kindOf(one)
    const done = await carryOut(one)
    const undo = kind.undo?.(one.given, done)
    if (undo) lastChange.value = undo
    const news = { ...nothing(), ...kind.touches(one.given) }
    const readAgain = () =>
      client.invalidateQueries({ predicate: ({ meta }) => isOld(meta?.on as Topic[] | undefined, news) })
    return { done, readAgain }
  }
}

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
      const plain = given()
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
