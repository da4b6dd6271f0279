import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas, WorkDetail } from '../common/api'
import { session } from '../common/session/session'
import { finished, moved, ticked, timed } from './queued'

const AT = '2026-03-02T06:00:00.000Z'
const line = (text: string, opens: number | null, is_turn: boolean) =>
  ({ text, opens, is_turn, ticked_at: null, skipped: null }) as Schemas['JobLine']

/** An order as the server tells it, as far as these look at it. */
const order = () =>
  ({
    number: 1,
    state: 'scheduled',
    moves: [{ to: 'under_way', asks: [], ahead: true, ends: false }],
    ahead: [
      { state: 'scheduled', moves: [] },
      { state: 'under_way', moves: [{ to: 'done', asks: [], ahead: true, ends: false }] },
      { state: 'done', moves: [] },
    ],
    running: [],
    permits: [],
    comments: [],
    checks: [{ id: 5, sheet: 'GAP', finished_at: null }],
    job: {
      steps: [line('first', 1, true), line('second', 2, false), line('third', null, false)],
      permits: [],
    },
  }) as unknown as WorkDetail
const shown = <Given>(
  kind: typeof ticked | object,
  given: Given,
  data: unknown,
  key: unknown[] = ['work-order', 1],
) => (kind as { shows: (on: unknown) => unknown }).shows({ given, at: AT, key, data })

beforeEach(() => {
  session.value = { signed_in: { code: 'tess', name: 'Tess Field' } } as typeof session.value
})

describe('work that waits for the network is shown as', () => {
  it('under way with time that runs, and the moves that the server said beforehand', () => {
    const begun = shown(timed, { number: 1, body: { running: true } }, order()) as WorkDetail
    expect([begun.state, begun.moves[0]?.to, begun.running]).toEqual([
      'under_way',
      'done',
      [{ person: 'tess', name: 'Tess Field', since: AT }],
    ])
    const done = shown(moved, { number: 1, body: { to: 'done' } }, begun) as WorkDetail
    expect([done.state, done.moves, done.running]).toEqual(['done', [], []])
    expect(shown(timed, { number: 2, body: { running: true } }, order())).toEqual(order())
  })

  it('ticked off, which makes it the turn of the line that the server named', () => {
    const once = shown(ticked, { number: 1, body: { step: 0, done: true } }, order()) as WorkDetail
    expect(once.job!.steps.map((step) => [step.ticked_at, step.is_turn])).toEqual([
      [AT, true],
      [null, true],
      [null, false],
    ])
    const skipped = shown(ticked, { number: 1, body: { step: 1, done: false, skip: 'locked' } }, once)
    expect((skipped as WorkDetail).job!.steps.map((step) => step.is_turn)).toEqual([true, true, true])
    const back = shown(ticked, { number: 1, body: { step: 0, done: false } }, once) as WorkDetail
    expect(back.job!.steps[0]!.ticked_at).toBeNull()
  })

  it('finished on the line of time, and no more among what is to be done', () => {
    const one = { number: 1, title: 'Seal', state: 'scheduled' }
    const other = { number: 2, title: 'Paint', state: 'scheduled' }
    const before = {
      to_do: 2,
      parts: [
        { at: 'late', day: null, orders: [one] },
        { at: 'today', day: null, orders: [other] },
      ],
    }
    const begun = shown(timed, { number: 1, body: { running: true } }, before, ['shift', '', ''])
    const done = shown(moved, { number: 1, body: { to: 'done' } }, begun, [
      'shift',
      '',
      '',
    ]) as Schemas['Shift']
    expect(done.to_do).toBe(1)
    expect(done.parts.map((part) => [part.at, part.orders.map((row) => row.number)])).toEqual([
      ['today', [2]],
      ['finished', [1]],
    ])
  })

  it('a check sheet with its answers', () => {
    const given = {
      number: 1,
      id: 5,
      body: { answers: [{ question: 'gap', value: { kind: 'number', value: 2 } }] },
    }
    const work = shown(finished, given, order()) as WorkDetail
    expect(work.checks[0]!.finished_at).toBe(AT)
    const check = shown(finished, given, { id: 5, answers: [{ question: 'gap' }, { question: 'dry' }] }, [
      'check',
      1,
      5,
    ]) as Schemas['CheckView']
    expect(check.answers.map(({ question }) => question)).toEqual(['dry', 'gap'])
    expect([check.may_fill_in, check.finished_at]).toEqual([false, AT])
  })
})
