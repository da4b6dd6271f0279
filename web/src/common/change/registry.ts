import type { QueryKey } from '@tanstack/vue-query'
import { type Client, Problem, answer, client } from '../api'
import type { News } from '../live/news'
import { withFilesSent } from '../offline/files'

/** Something to be done on the server, in plain data: it can be kept, sent again, and told to another. */
export interface Command {
  /** Name of its kind. */
  kind: string
  given: unknown
  /** The client's own key: the server does what comes under it once. */
  key: string
  /** The change that it is based on, where two people could edit one thing. */
  base?: number
}

/** A command that takes another one back, and how that is offered. */
export interface Undo {
  /** What was done. */
  says: string
  takes: Command
  /** The offer stands as long as one stays at paths that begin like this. */
  within: string
}

type Call<Done> = Promise<{ data?: Done; error?: unknown; response: Response }>

/** A kind of change: how it is sent, what it makes old, and what takes it back. */
export interface ChangeKind<Given, Done> {
  name: string
  send(api: Client, given: Given, base: number | undefined): Call<Done>
  touches(given: Given): Partial<News>
  undo?(given: Given, done: Done): Undo | undefined
  queued?: WhenQueued<Given, Done>
}

/** What becomes of a change while the server does not answer; without it, it is refused then. */
export interface WhenQueued<Given, Done> {
  /** What it is, in words. */
  says(given: Given): string
  /** The order that it is about. */
  order?(given: Given): number | undefined
  /** The same, said of an instant; where it says one already, that stays unless it is to be said `anew`. */
  stamped?(given: Given, at: string, anew?: boolean): unknown
  /** Something that was read by a key, as if it were done. */
  shows?(on: { given: Given; at: string; key: QueryKey; data: unknown }): unknown
  /** What somebody should know of what the server answered. */
  tells?(done: Done): string | undefined
}

const kinds = new Map<string, ChangeKind<never, unknown>>()

/** Enters a kind of change: by its name a command of it can be carried out later, too. */
export function change<Given, Done>(
  name: string,
  touches: Partial<News> | ((given: Given) => Partial<News>),
  send: ChangeKind<Given, Done>['send'],
  undo?: ChangeKind<Given, Done>['undo'],
  queued?: WhenQueued<Given, Done>,
): ChangeKind<Given, Done> {
  if (kinds.has(name)) throw new Error(`two kinds of change are called ${name}`)
  const kind = { name, send, undo, queued, touches: typeof touches === 'function' ? touches : () => touches }
  kinds.set(name, kind)
  return kind
}

/** A command of that kind, under a key of its own. */
export const command = <Given>(kind: ChangeKind<Given, unknown>, given: Given, base?: number): Command => ({
  kind: kind.name,
  given,
  key: crypto.randomUUID(),
  base,
})

/** Whether this version knows a kind of change so called. */
export const isKnown = ({ kind }: Command) => kinds.has(kind)

/** The kind of a command. */
export function kindOf(one: Command): ChangeKind<unknown, unknown> {
  const kind = kinds.get(one.kind)
  if (!kind) throw new Problem(0, `This version knows no change called ${one.kind}.`, [])
  return kind
}

/** Has the server carry a command out, after the files that it names; sent again, it is not done again. */
export async function carryOut(one: Command): Promise<unknown> {
  const given = await withFilesSent(one.given)
  return answer(kindOf(one).send(client({ 'idempotency-key': one.key }), given, one.base))
}
