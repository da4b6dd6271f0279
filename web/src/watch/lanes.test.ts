import { describe, expect, it } from 'vitest'
import type { AlarmRow, WorkSpan, Ladder, ReplayView } from '../common/api'
import { LEFT, RIGHT } from '../common/chart/geometry'
import { LANE, alarmBars, failureMarks, workBars, wouldBeBars, wouldBeWork } from './lanes'

const day = (n: number) => new Date(Date.UTC(2026, 0, 1) + (n - 1) * 86_400_000).toISOString()
// Ten days of a hundred pixels each.
const axis = {
  view: { from: Date.parse(day(1)), to: Date.parse(day(11)) },
  width: LEFT + 1_000 + RIGHT,
  left: 60,
  now: Date.parse(day(9)),
}
const at = (n: number) => LEFT + (n - 1) * 100
const round = (n: number) => Math.round(n * 1e6) / 1e6

describe('lanes', () => {
  it('draw alarms that reach into the view, the worse the higher, what still stands until now', () => {
    const alarm = (id: number, severity: string, entered_at: string, left_at: string | null) =>
      ({ id, severity, entered_at, left_at, rung: 'alert high', shown: '9 mm/s' }) as unknown as AlarmRow
    const bars = alarmBars(
      [
        alarm(1, 'alert', day(2), day(4)),
        alarm(2, 'danger', day(6), null),
        alarm(3, 'alert', '2025-12-01T00:00:00Z', '2025-12-02T00:00:00Z'),
        alarm(4, 'alert', day(3), day(3)),
      ],
      axis,
    )
    expect(bars.map((bar) => [bar.key, round(bar.x), round(bar.width)])).toEqual([
      ['1', at(2), 200],
      ['2', at(6), 300],
      ['4', at(3), 3],
    ])
    expect(bars[1]!.y).toBeLessThan(bars[0]!.y)
    expect(bars[0]!.title).toContain('alert high, 9 mm/s, ')
  })

  it('draw work in two rows, so that what overlaps is seen', () => {
    const work = [1, 2, 3].map((number) => ({ number, title: 'Grease', raised_at: day(2), done_at: day(3) }))
    const bars = workBars(work as unknown as WorkSpan[], axis)
    expect(bars.map((bar) => bar.y)).toEqual([LANE + 4, LANE + 12, LANE + 4])
    expect(bars[0]!.title).toContain('1 Grease, raised ')
  })

  it('say how many alarms one bar stands for, and leave out rungs that are gone', () => {
    const ladder = { rungs: [{ severity: 'serious' }] } as Ladder
    const alarms = [
      { rung: 0, entered_at: day(2), left_at: day(4), alarms: 40 },
      { rung: 0, entered_at: day(5), left_at: null, alarms: 1 },
      { rung: 1, entered_at: day(5), left_at: null, alarms: 1 },
    ]
    const bars = wouldBeBars(alarms, ladder, axis)
    expect(bars.map((bar) => bar.title.replace(/(from|entered,) .*/, '$1'))).toEqual([
      'serious would have been entered 40 times, from',
      'serious would have been entered,',
    ])
    expect(new Set(bars.map((bar) => bar.key)).size).toBe(2)
    const raised = [day(3), '2025-11-01T00:00:00Z'].map((raised_at) => ({ raised_at }))
    expect(wouldBeWork(raised as ReplayView['work'], axis).map((mark) => round(mark.x))).toEqual([at(3)])
  })

  it('mark what failed, with what the limits would have made of it', () => {
    const failed = (number: number, n: number, problem?: string) =>
      ({ number, failed_at: day(n), problem }) as unknown as WorkSpan
    const judged = [
      { work_order: 1, warning_ms: 3.5 * 86_400_000 },
      { work_order: 2, warning_ms: null },
    ] as ReplayView['failures']
    const marks = failureMarks([failed(3, 9.5), failed(1, 2, 'Worn'), failed(2, 8, 'Leak')], judged, axis)
    expect(marks.map(({ key, caught, side }) => [key, caught, side])).toEqual([
      [1, true, 'right'],
      [2, false, 'right'],
      [3, false, 'right'],
    ])
    expect(marks.map((mark) => mark.title.split(': ')[1])).toEqual([
      'caught 3 days before',
      'missed',
      undefined,
    ])
    expect(marks[2]!.label).toBe('not coded')
  })

  it('put words where there is room, or nowhere', () => {
    const near = [2, 2.5, 10.5].map((n, number) => ({ number, failed_at: day(n) }) as unknown as WorkSpan)
    expect(failureMarks(near, [], axis).map((mark) => mark.side)).toEqual(['', 'right', 'left'])
  })
})
