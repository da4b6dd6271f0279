import type { Client, Schemas } from '../common/api'
import { change, command } from '../common/change/registry'
import {
  attached,
  commented,
  finished,
  moved,
  raisedLater,
  stampedBody,
  ticked,
  timed,
  waits,
} from './queued'

/** What is done to work. */
const work = { work: true }

export const raiseWork = change(
  'work.raise',
  work,
  (api, body: Schemas['NewWork']) => api.POST('/api/v1/work-orders', { body }),
  undefined,
  raisedLater,
)

export const takeBackReport = change(
  'work.report.take-back',
  work,
  (api, { number, id }: { number: number; id: number }) =>
    api.DELETE('/api/v1/work-orders/{number}/occurrences/{id}', { params: { path: { number, id } } }),
)

/** What somebody sees goes to work that is about the same. */
export const joinWork = change(
  'work.join',
  work,
  (api, { number, words }: { number: number; words: string }) =>
    api.POST('/api/v1/work-orders/{number}/occurrences', { params: { path: { number } }, body: { words } }),
  ({ number }, { id }) => ({
    says: `Your report went to work ${number}`,
    takes: command(takeBackReport, { number, id }),
    within: '/work',
  }),
)

export const putBackSeveral = change('work.several.put-back', work, (api, { batch }: { batch: number }) =>
  api.POST('/api/v1/work-orders/several/{batch}/put-back', { params: { path: { batch } } }),
)

export const changeSeveral = change(
  'work.several',
  work,
  (api, body: Schemas['Several']) => api.POST('/api/v1/work-orders/several', { body }),
  (_, { batch, done }) =>
    batch == null
      ? undefined
      : {
          says: done === 1 ? '1 order changed' : `${done} orders changed`,
          takes: command(putBackSeveral, { batch }),
          within: '/work',
        },
)

/** An order goes on a crew's day, or off the board. */
export const placeWork = change(
  'work.place',
  work,
  (api, { number, crew, date }: { number: number; title: string; crew?: string; date?: string }) =>
    api.POST('/api/v1/work-orders/{number}/place', { params: { path: { number } }, body: { crew, date } }),
  ({ title }, { batch }) =>
    batch == null
      ? undefined
      : { says: `Moved: ${title}`, takes: command(putBackSeveral, { batch }), within: '/work' },
)

/** Cycles of upkeep that lie ahead are moved to other days. */
interface CycleMoves {
  says: string
  moves: Schemas['MoveRow'][]
}
export const moveCyclesBack = change('upkeep.move-back', work, (api, { moves }: CycleMoves) =>
  api.POST('/api/v1/upkeep/moves', { body: { moves } }),
)
export const moveCycles = change(
  'upkeep.move',
  work,
  (api, { moves }: CycleMoves) => api.POST('/api/v1/upkeep/moves', { body: { moves } }),
  ({ says }, { back }) => ({
    says,
    takes: command(moveCyclesBack, { says, moves: back }),
    within: '/work/year',
  }),
)

/** A decision on risk is answered. A stop begins downtime, and a rung that runs on is quiet. */
export const decide = change(
  'work.decide',
  { ...work, alarms: true },
  (api, { number, id, body }: { number: number; id: number; body: Schemas['NewRiskAnswer'] }) =>
    api.POST('/api/v1/work-orders/{number}/decisions/{id}', { params: { path: { number, id } }, body }),
)

/** A decision to run on is withdrawn: it is asked anew. */
export const withdrawDecision = change(
  'work.decision.withdraw',
  { ...work, alarms: true },
  (api, { number, id, body }: { number: number; id: number; body: Schemas['NewWithdrawal'] }) =>
    api.DELETE('/api/v1/work-orders/{number}/decisions/{id}', { params: { path: { number, id } }, body }),
)

/** A line of an order's job sheet is ticked off, or back. */
export const tickJob = change(
  'work.tick',
  work,
  (api, { number, body }: { number: number; body: Schemas['TickChange'] }) =>
    api.POST('/api/v1/work-orders/{number}/job-sheet/ticks', { params: { path: { number } }, body }),
  undefined,
  ticked,
)

export const attachToWork = change(
  'work.attach',
  work,
  (api, { number, ...body }: { number: number } & Schemas['Attaching']) =>
    api.POST('/api/v1/work-orders/{number}/attachments', { params: { path: { number } }, body }),
  undefined,
  attached,
)

interface OneAttachment {
  number: number
  id: number
  name: string
}
const attachmentAt = ({ number, id }: OneAttachment) => ({ params: { path: { number, id } } })
export const putAttachmentBack = change('work.attachment.put-back', work, (api, one: OneAttachment) =>
  api.POST('/api/v1/work-orders/{number}/attachments/{id}/put-back', attachmentAt(one)),
)
export const takeAttachmentAway = change(
  'work.attachment.take-away',
  work,
  (api, one: OneAttachment) => api.DELETE('/api/v1/work-orders/{number}/attachments/{id}', attachmentAt(one)),
  (one) => ({
    says: `Taken away: ${one.name}`,
    takes: command(putAttachmentBack, one),
    within: '/work',
  }),
)

export const answerCheck = change(
  'work.check.answer',
  {},
  (api, { number, id, body }: { number: number; id: number; body: Schemas['Answering'] }) =>
    api.POST('/api/v1/work-orders/{number}/checks/{id}/answers', {
      params: { path: { number, id } },
      body,
    }),
)

/** Its readings go to their meters, and may set off alarms and work. */
export const finishCheck = change(
  'work.check.finish',
  { ...work, alarms: true },
  (api, { number, id, body }: { number: number; id: number; body: Schemas['Answering'] }) =>
    api.POST('/api/v1/work-orders/{number}/checks/{id}/finish', {
      params: { path: { number, id } },
      body,
    }),
  undefined,
  finished,
)

export const addCheck = change(
  'work.check.add',
  work,
  (api, { number, sheet }: { number: number; sheet: string }) =>
    api.POST('/api/v1/work-orders/{number}/checks', { params: { path: { number } }, body: { sheet } }),
)

export const leaveCheckOut = change(
  'work.check.leave-out',
  work,
  (api, { number, id }: { number: number; id: number }) =>
    api.DELETE('/api/v1/work-orders/{number}/checks/{id}', { params: { path: { number, id } } }),
)

/** Somebody's time on an order begins, and the work with it; or it ends. */
export const changeTime = change(
  'work.time',
  work,
  (api, { number, body }: { number: number; body: Schemas['TimeChange'] }) =>
    api.POST('/api/v1/work-orders/{number}/time', { params: { path: { number } }, body }),
  undefined,
  timed,
)

export const addHours = change(
  'work.hours',
  work,
  (api, { number, body }: { number: number; body: Schemas['NewHours'] }) =>
    api.POST('/api/v1/work-orders/{number}/hours', { params: { path: { number } }, body }),
  undefined,
  waits<{ number: number; body: Schemas['NewHours'] }>(
    ({ body }) => `${body.hours} hours reported`,
    stampedBody,
  ),
)

/** A part is set aside, freed, taken from the storeroom or given back. */
interface OnePart {
  number: number
  item: string
  body: Schemas['PartMove']
}
const sendPart = (api: Client, { number, body }: OnePart) =>
  api.POST('/api/v1/work-orders/{number}/parts', { params: { path: { number } }, body })
export const movePartBack = change('work.part.back', work, sendPart)
const reverses: Record<Schemas['PartAction'], Schemas['PartAction']> = {
  reserve: 'release',
  release: 'reserve',
  take: 'give_back',
  give_back: 'take',
}
const partWords: Record<Schemas['PartAction'], string> = {
  reserve: 'Reserved',
  release: 'Not reserved any more',
  take: 'Taken',
  give_back: 'Given back',
}
export const movePart = change(
  'work.part',
  work,
  sendPart,
  ({ number, item, body }) => ({
    says: `${partWords[body.action]}: ${body.quantity} × ${item}`,
    takes: command(movePartBack, { number, item, body: { ...body, action: reverses[body.action] } }),
    within: '/',
  }),
  waits<OnePart>(({ item, body }) => `${partWords[body.action]}: ${body.quantity} × ${item}`, stampedBody),
)

export const comment = change(
  'work.comment',
  work,
  (api, { number, body }: { number: number; body: Schemas['NewComment'] }) =>
    api.POST('/api/v1/work-orders/{number}/comments', { params: { path: { number } }, body }),
  undefined,
  commented,
)

interface OneComment {
  number: number
  id: number
}
const commentAt = ({ number, id }: OneComment) => ({ params: { path: { number, id } } })
export const putCommentBack = change('work.comment.put-back', work, (api, one: OneComment) =>
  api.POST('/api/v1/work-orders/{number}/comments/{id}/put-back', commentAt(one)),
)
export const takeCommentAway = change(
  'work.comment.take-away',
  work,
  (api, one: OneComment) => api.DELETE('/api/v1/work-orders/{number}/comments/{id}', commentAt(one)),
  (one) => ({ says: 'Comment taken away', takes: command(putCommentBack, one), within: '/' }),
)

export const unlinkWork = change('work.unlink', work, (api, { number, to }: { number: number; to: number }) =>
  api.DELETE('/api/v1/work-orders/{number}/links/{to}', { params: { path: { number, to } } }),
)

export const changeWork = change(
  'work.change',
  work,
  (api, { number, ...body }: { number: number } & Schemas['WorkChange']) =>
    api.PATCH('/api/v1/work-orders/{number}', { params: { path: { number } }, body }),
)

/** With the readings after a finish it also judges alarms. */
export const moveWork = change(
  'work.move',
  ({ meters }: { meters?: string[] }) => ({ ...work, alarms: true, meters: meters ?? [] }),
  (api, { number, body }: { number: number; body: Schemas['StateMove']; meters?: string[] }, based_on) =>
    api.POST('/api/v1/work-orders/{number}/state', {
      params: { path: { number }, query: { based_on } },
      body,
    }),
  undefined,
  moved,
)

export const addEntry = change(
  'work.entry',
  work,
  (api, { number, body }: { number: number; body: Schemas['NewEntry'] }) =>
    api.POST('/api/v1/work-orders/{number}/entries', { params: { path: { number } }, body }),
  undefined,
  waits<{ number: number; body: Schemas['NewEntry'] }>(
    ({ body }) => `${body.quantity} × ${body.description || 'hours'} entered`,
    stampedBody,
  ),
)

export const reverseEntry = change(
  'work.entry.reverse',
  work,
  (api, { number, id, reason }: { number: number; id: number; reason: string }) =>
    api.POST('/api/v1/work-orders/{number}/entries/{id}/reverse', {
      params: { path: { number, id } },
      body: { reason },
    }),
)

export const addDowntime = change(
  'work.downtime',
  work,
  (api, { number, body }: { number: number; body: Schemas['NewDowntime'] }) =>
    api.POST('/api/v1/work-orders/{number}/downtime', { params: { path: { number } }, body }),
  undefined,
  waits<{ number: number; body: Schemas['NewDowntime'] }>(({ body }) => `Downtime, ${body.kind}`),
)

export const endDowntime = change(
  'downtime.end',
  work,
  (api, { id, end }: { id: number; end: string }) =>
    api.POST('/api/v1/downtime/{id}/end', { params: { path: { id } }, body: { end } }),
  undefined,
  { says: () => 'Downtime ends' },
)

interface OneDowntime {
  id: number
  body: Schemas['DowntimeCorrection']
  /** As it was, for the way back. */
  was: Schemas['DowntimeCorrection']
}
const sendCorrection = (api: Client, { id, body }: OneDowntime) =>
  api.PUT('/api/v1/downtime/{id}', { params: { path: { id } }, body })
const correctDowntimeBack = change('downtime.correct-back', work, sendCorrection)
export const correctDowntime = change('downtime.correct', work, sendCorrection, ({ id, body, was }) => ({
  says: 'Downtime corrected',
  takes: command(correctDowntimeBack, { id, body: was, was: body }),
  within: '/work',
}))

const putDowntimeBack = change('downtime.put-back', work, (api, { id }: { id: number }) =>
  api.POST('/api/v1/downtime/{id}/put-back', { params: { path: { id } } }),
)
export const deleteDowntime = change(
  'downtime.delete',
  work,
  (api, { id, reason }: { id: number; reason: string }) =>
    api.DELETE('/api/v1/downtime/{id}', { params: { path: { id } }, body: { reason } }),
  ({ id }) => ({ says: 'Downtime deleted', takes: command(putDowntimeBack, { id }), within: '/work' }),
)

export const reportFailure = change(
  'work.failure',
  work,
  (api, { number, body }: { number: number; body: Schemas['NewFailure'] }) =>
    api.PUT('/api/v1/work-orders/{number}/failure', { params: { path: { number } }, body }),
  undefined,
  waits<{ number: number; body: Schemas['NewFailure'] }>(() => 'A failure is reported', stampedBody),
)

export const removeFailure = change(
  'work.failure.remove',
  work,
  (api, { number, id }: { number: number; id: number }) =>
    api.DELETE('/api/v1/work-orders/{number}/failures/{id}', { params: { path: { number, id } } }),
)
