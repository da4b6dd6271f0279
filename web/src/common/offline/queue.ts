import type { QueryKey } from '@tanstack/vue-query'
import { shallowRef } from 'vue'
import { Problem } from '../api'
import { type Command, carryOut, isKnown, kindOf } from '../change/registry'
import { session } from '../session/session'
import { change, read } from './kept'

/** A command that waits for the network. */
export interface Queued {
  command: Command
  /** Whose it is: nobody else sends it. */
  by: string
  /** When it was done, as clocks show in the installation. */
  at: string
  /** What it is, in words. */
  says: string
  /** The order that it is about: what comes later on the same waits for it. */
  order?: number
  /** Why the server did not do it: somebody has to decide. */
  refused?: string
}

const NAME = 'queue'
/** What waits, in the order in which it was done. */
export const queue = shallowRef<Queued[]>([])
/** What the server said that somebody should know, of things that were done meanwhile. */
export const told = shallowRef<string[]>([])

const changed = async (how: (before: Queued[]) => Queued[]) => {
  queue.value = await change<Queued[]>(NAME, (before) => how(before ?? []))
}

export async function loadQueue() {
  queue.value = (await read<Queued[]>(NAME)) ?? []
}

/** Keeps a command until the server has done it. */
export async function enqueue(command: Command, at: string) {
  const { queued } = kindOf(command)
  const by = session.value?.signed_in?.code ?? ''
  const order = queued?.order?.(command.given)
  const says = queued?.says(command.given) ?? command.kind
  await changed((before) => {
    // What follows on what waits is based on that, which no server has seen yet.
    const follows = before.some((other) => other.by === by && order !== undefined && other.order === order)
    const base = follows ? undefined : command.base
    const rest = before.filter((other) => other.command.key !== command.key)
    return [...rest, { command: { ...command, base }, by, at, says, order }]
  })
}

/** One's own that wait. */
export const isOwn = ({ by }: Queued) => by === session.value?.signed_in?.code

/** What a page shows of something that was read, with all that waits done to it. */
export function withQueued<T>(key: QueryKey, data: T): T {
  return queue.value.filter(isOwn).reduce((shown, one) => seen(one.command, one.at, key, shown), data)
}

/** Something that was read, with a command done to it. */
export function seen<T>(command: Command, at: string, key: QueryKey, data: T): T {
  const shows = isKnown(command) ? kindOf(command).queued?.shows : undefined
  return shows ? (shows({ given: command.given, at, key, data }) as T) : data
}

let isSending = false
/** In one tab only. */
const alone = (work: () => Promise<void>) =>
  typeof navigator !== 'undefined' && navigator.locks
    ? navigator.locks.request('fair-tally-queue', { ifAvailable: true }, (lock) =>
        lock ? work() : undefined,
      )
    : work()

/** Sends what waits, one after the other, until the server answers no more; whether something was done. */
export async function sendQueue(): Promise<boolean> {
  let isDone = false
  if (isSending) return false
  isSending = true
  try {
    await alone(async () => {
      await loadQueue()
      for (let next = sendable(); next; next = sendable()) {
        if (!(await sent(next))) break
        isDone = true
      }
    })
  } finally {
    isSending = false
  }
  return isDone
}

/** The first that may go out: one's own, not refused, and after nothing refused of the same order. */
function sendable(): Queued | undefined {
  const held = new Set(queue.value.filter(({ refused }) => refused).map(({ order }) => order))
  return queue.value.find(
    (one) => isOwn(one) && !one.refused && (one.order === undefined || !held.has(one.order)),
  )
}

/** No answer to what was asked: the network is gone, the session over, the server busy or at fault. */
const isForLater = ({ status }: Problem) => [0, 401, 408, 429].includes(status) || status >= 500

/** Whether the server answered, be it with a refusal. */
async function sent({ command }: Queued): Promise<boolean> {
  const { key } = command
  try {
    const done = await carryOut(command)
    await changed((before) => before.filter((other) => other.command.key !== key))
    const tells = kindOf(command).queued?.tells?.(done)
    if (tells) told.value = [...told.value, tells]
    return true
  } catch (problem) {
    if (!(problem instanceof Problem) || isForLater(problem)) return false
    if (problem.isDone) {
      await changed((before) => before.filter((other) => other.command.key !== key))
      return true
    }
    const lines = problem.fields.map(({ field, reason }) => `${field.replaceAll('_', ' ')}: ${reason}`)
    const refused = lines.join('; ') || problem.message
    await changed((before) => before.map((one) => (one.command.key === key ? { ...one, refused } : one)))
    return true
  }
}

/** Sends what was refused once more, as of now and whatever somebody else did meanwhile. */
export const anyway = ({ command }: Queued, now: string) =>
  changed((before) =>
    before.map((one) =>
      one.command.key === command.key
        ? {
            ...one,
            refused: undefined,
            command: asOf(now, one.command),
          }
        : one,
    ),
  )

function asOf(now: string, { kind, given }: Command): Command {
  const { queued } = kindOf({ kind, given, key: '' })
  const stamped = queued?.stamped ? queued.stamped(given, now, true) : given
  return { kind, given: stamped, key: crypto.randomUUID() }
}

/** It is not to be done any more. */
export const leaveOut = ({ command }: Queued) =>
  changed((before) => before.filter((one) => one.command.key !== command.key))
