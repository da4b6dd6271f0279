import type { FinderPoint, Ladder } from '../common/api'

/** The drawing of a finder's curve, in its own units. */
export const WIDTH = 600
export const HEIGHT = 150
export const [LEFT, BOTTOM, TOP] = [44, 24, 14]
export const FLOOR = HEIGHT - BOTTOM
const DAY = 86_400_000

/** What a curve depends on: the ladder with this rung alone, wherever that stands now. */
export function shapeOf(ladder: Ladder, place: number): string {
  return JSON.stringify({ ...ladder, rungs: [{ ...ladder.rungs[place], setpoint: 0 }] })
}

/** The width of a column. */
export const stepOf = (points: FinderPoint[]) => (WIDTH - LEFT) / Math.max(1, points.length)

/** The greatest of what is drawn: spells or orders, and days of warning. */
export function greatest(points: FinderPoint[]) {
  const most = Math.max(1, ...points.map((point) => Math.max(point.nuisance, point.work)))
  const longest = Math.max(1, ...points.map((point) => (point.median_warning_ms ?? 0) / DAY))
  return { most, longest }
}

/** A column for each setpoint that was tried; counts share one scale, warnings have their own. */
export function columnsOf(points: FinderPoint[]) {
  const { most, longest } = greatest(points)
  const up = (share: number) => FLOOR - share * (FLOOR - TOP)
  return points.map((point, index) => ({
    point,
    x: LEFT + index * stepOf(points),
    middle: LEFT + (index + 0.5) * stepOf(points),
    warning: point.median_warning_ms == null ? undefined : up(point.median_warning_ms / DAY / longest),
    nuisance: up(point.nuisance / most),
    work: up(point.work / most),
  }))
}

/** Where a setpoint stands on the curve, if that reaches so far. */
export function placeOf(setpoint: number | null | undefined, points: FinderPoint[]): number | undefined {
  const [first, last] = [points[0]?.setpoint, points.at(-1)?.setpoint]
  if (first === undefined || last === undefined || setpoint == null || last <= first) return undefined
  const share = (setpoint - first) / (last - first)
  if (share < 0 || share > 1) return undefined
  return LEFT + (0.5 + share * (points.length - 1)) * stepOf(points)
}
