import type { Schemas, WorkDetail, WorkState } from '../common/api'
import type { WhenQueued } from '../common/change/registry'
import { stateWords } from '../common/format'
import { session } from '../common/session/session'

/** What of work is shown as done while it waits for the network. What follows from it the server said beforehand. */

/** A body that says when it was. */
export const stampedBody = <Given extends { body: { at?: string | null } }>(
  given: Given,
  at: string,
  anew = false,
): Given => ({ ...given, body: { ...given.body, at: anew ? at : (given.body.at ?? at) } })

type Seen = { at: string; key: readonly unknown[]; data: unknown }

/** The order of that number, as it would be. */
function ofOrder({ key, data }: Seen, number: number, how: (work: WorkDetail) => WorkDetail): unknown {
  return key[0] === 'work-order' && key[1] === number ? how(data as WorkDetail) : data
}

const me = () => session.value?.signed_in?.name ?? ''
const code = () => session.value?.signed_in?.code ?? ''

function inState(work: WorkDetail, state: WorkState, at: string): WorkDetail {
  if (work.state === state) return work
  const moves = work.ahead.find((known) => known.state === state)?.moves ?? []
  const running = state === 'under_way' ? work.running : []
  return { ...work, state, state_since: at, moves, running }
}

/** An order stands elsewhere on the line of time. */
function placed({ key, data }: Seen, number: number, at: Schemas['OnLine']): unknown {
  if (key[0] !== 'shift') return data
  const line = data as Schemas['Shift']
  const order = line.parts.flatMap(({ orders }) => orders).find((one) => one.number === number)
  if (!order) return data
  const rest = line.parts.map((part) => ({
    ...part,
    orders: part.orders.filter((one) => one.number !== number),
  }))
  const state: WorkState = at === 'finished' ? 'done' : 'under_way'
  const there = rest.find((part) => part.at === at)?.orders ?? []
  const moved = { at, day: null, orders: [...there, { ...order, state }] }
  const others = rest.filter((part) => part.at !== at && part.orders.length)
  // What is late stands above now, what is finished below all else.
  const above = others.filter((part) => at === 'finished' || part.at === 'late')
  const parts = [...above, moved, ...others.filter((part) => !above.includes(part))]
  const wasToDo = !line.parts.find((part) => part.at === 'finished')?.orders.includes(order)
  return { ...line, parts, to_do: line.to_do - (at === 'finished' && wasToDo ? 1 : 0) }
}

export const ticked: WhenQueued<{ number: number; body: Schemas['TickChange'] }, unknown> = {
  says: ({ body }) => (body.done ? 'Ticked off' : body.skip ? 'Left out' : 'Ticked back'),
  order: ({ number }) => number,
  stamped: stampedBody,
  shows: ({ given: { number, body }, ...seen }) =>
    ofOrder(seen, number, (work) => {
      const settles = body.done || body.skip != null
      const set = (lines: Schemas['JobLine'][], place: number | null | undefined) =>
        lines.map((line, at) => {
          if (at === place)
            return {
              ...line,
              ticked_at: settles ? seen.at : null,
              ticked_by: settles ? me() : null,
              skipped: body.skip,
            }
          const opens = place == null ? undefined : lines[place]?.opens
          return settles && at === opens ? { ...line, is_turn: true } : line
        })
      const job = work.job && {
        ...work.job,
        steps: set(work.job.steps, body.step),
        permits: set(work.job.permits, body.permit),
      }
      return { ...work, job, permits: set(work.permits, body.asset_permit) }
    }),
}

export const moved: WhenQueued<{ number: number; body: Schemas['StateMove']; meters?: string[] }, unknown> = {
  says: ({ body }) => `Set to ${stateWords[body.to]}`,
  order: ({ number }) => number,
  stamped: stampedBody,
  shows: ({ given: { number, body }, ...seen }) =>
    seen.key[0] === 'shift' && (body.to === 'done' || body.to === 'under_way')
      ? placed(seen, number, body.to === 'done' ? 'finished' : 'now')
      : ofOrder(seen, number, (work) => ({
          ...inState(work, body.to, body.at ?? seen.at),
          waiting_for: body.waiting_for ?? null,
          verdict: body.verdict ?? work.verdict,
        })),
}

export const timed: WhenQueued<{ number: number; body: Schemas['TimeChange'] }, unknown> = {
  says: ({ body }) => (body.running ? 'Time begins' : 'Time ends'),
  order: ({ number }) => number,
  stamped: stampedBody,
  shows: ({ given: { number, body }, ...seen }) => {
    const people = body.people?.length ? body.people : [code()]
    if (body.running && seen.key[0] === 'shift') return placed(seen, number, 'now')
    return ofOrder(seen, number, (work) => {
      const rest = work.running.filter(({ person }) => !people.includes(person))
      if (!body.running) return { ...work, running: rest }
      const since = body.at ?? seen.at
      const begun = people.map((person) => ({ person, name: person === code() ? me() : person, since }))
      return { ...inState(work, 'under_way', since), running: [...rest, ...begun] }
    })
  },
}

export const commented: WhenQueued<{ number: number; body: Schemas['NewComment'] }, unknown> = {
  says: ({ body }) => `Said: ${body.text}`,
  order: ({ number }) => number,
  stamped: stampedBody,
  shows: ({ given: { number, body }, ...seen }) =>
    ofOrder(seen, number, (work) => {
      const said = {
        id: -work.comments.length - 1,
        text: body.text,
        for_colleagues: body.for_colleagues ?? false,
        by: me(),
        at: seen.at,
        is_own: false,
      }
      return { ...work, comments: [...work.comments, said] }
    }),
}

/** A photo or paper of an order, or one that waits in this browser under a name of its own. */
export type ShownAttachment = WorkDetail['attachments'][number] & { waits?: string }

export const attached: WhenQueued<{ number: number } & Schemas['Attaching'], unknown> = {
  says: ({ attachments }) => `Attached: ${attachments.map(({ name }) => name).join(', ')}`,
  order: ({ number }) => number,
  stamped: (given, at, anew = false) => ({ ...given, at: anew ? at : (given.at ?? at) }),
  shows: ({ given: { number, attachments }, ...seen }) =>
    ofOrder(seen, number, (work) => {
      const waiting = attachments.map(({ file, name }, place): ShownAttachment => ({
        id: -work.attachments.length - place - 1,
        name,
        by: me(),
        at: seen.at,
        bytes: 0,
        media_type: '',
        // A photo, unless its name says that it is paper.
        width: name.toLowerCase().endsWith('.pdf') ? null : 1,
        may_take_away: false,
        waits: file,
      }))
      return { ...work, attachments: [...work.attachments, ...waiting] }
    }),
}

export const raisedLater: WhenQueued<Schemas['NewWork'], Schemas['RaisedWork']> = {
  says: ({ title }) => `Raised: ${title}`,
  order: ({ follows }) => follows ?? undefined,
  stamped: (given, at, anew) => ({ ...given, raised_at: anew ? at : (given.raised_at ?? at) }),
  tells: ({ number }) => `What you raised without a network is work ${number}.`,
}

export const finished: WhenQueued<
  { number: number; id: number; body: Schemas['Answering'] },
  Schemas['FinishedCheck']
> = {
  says: () => 'A check sheet is finished',
  order: ({ number }) => number,
  stamped: stampedBody,
  shows: ({ given: { number, id, body }, ...seen }) => {
    if (seen.key[0] !== 'check' || seen.key[2] !== id)
      return ofOrder(seen, number, (work) => ({
        ...work,
        checks: work.checks.map((check) =>
          check.id === id ? { ...check, finished_at: seen.at, by: me() } : check,
        ),
      }))
    const check = seen.data as Schemas['CheckView']
    const isNew = ({ question }: { question: string }) =>
      body.answers?.every((answer) => answer.question !== question) && !body.cleared?.includes(question)
    return {
      ...check,
      answers: [...check.answers.filter(isNew), ...(body.answers ?? [])],
      finished_at: seen.at,
      answered_by: me(),
      may_fill_in: false,
    }
  },
  tells: ({ by_limits, by_answers }) => {
    const raised = [...by_limits, ...by_answers]
    return raised.length
      ? `What was found on a check sheet raised or joined work ${raised.join(', ')}.`
      : undefined
  },
}

/** What is only told, and shown as waiting. */
export const waits = <Given extends { number: number }>(
  says: (given: Given) => string,
  stamped?: WhenQueued<Given, unknown>['stamped'],
): WhenQueued<Given, unknown> => ({ says, order: ({ number }) => number, stamped })
