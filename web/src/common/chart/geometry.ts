/** Room beside the drawing, in pixels: the trend and the lanes below it share one time axis. */
export const LEFT = 52
export const RIGHT = 14
export const TOP = 10
export const BOTTOM = 26

/** A stretch of time in milliseconds. */
export interface View {
  from: number
  to: number
}

/** The least and the greatest value drawn. */
export interface Range {
  low: number
  high: number
}

/** From the top of a drawing that is `height` high, where a value lies. */
export function yOf(value: number, range: Range, height: number): number {
  const inside = height - TOP - BOTTOM
  return TOP + inside * (1 - (value - range.low) / (range.high - range.low))
}

/** The value at that place. */
export function valueAt(y: number, range: Range, height: number): number {
  const inside = height - TOP - BOTTOM
  return range.low + (1 - (y - TOP) / inside) * (range.high - range.low)
}

/** From the left of a drawing, where an instant lies, held within the drawing. */
export function xOf(at: number, view: View, width: number): number {
  const share = (at - view.from) / (view.to - view.from)
  return LEFT + Math.max(0, Math.min(1, share)) * (width - LEFT - RIGHT)
}

/** A range that holds all values with some room, ending on round numbers. */
export function rangeOf(values: number[]): Range {
  if (!values.length) return { low: 0, high: 1 }
  let [low, high] = [Infinity, -Infinity]
  for (const value of values) {
    if (value < low) low = value
    if (value > high) high = value
  }
  const room = (high - low) * 0.07 || Math.abs(high) * 0.1 || 1
  const step = 10 ** Math.floor(Math.log10(high - low + 2 * room)) / 5
  const floor = low >= 0 && low - room < 0 ? 0 : Math.floor((low - room) / step) * step
  return { low: floor, high: Math.ceil((high + room) / step) * step }
}

/** A line that ends where readings stay away for ten times as long as they usually do, instead of leaping over it. */
export function broken(points: [number, number][]): [number, number | null][] {
  const gaps = points.slice(1).map(([at], index) => at - points[index]![0])
  const usual = gaps.sort((a, b) => a - b)[Math.floor(gaps.length / 2)] ?? 0
  const span = points.length ? points.at(-1)![0] - points[0]![0] : 0
  const longest = Math.max(10 * usual, span / 100)
  return points.flatMap((point, index): [number, number | null][] => {
    const before = points[index - 1]
    return before && point[0] - before[0] > longest ? [[before[0] + 1, null], point] : [point]
  })
}
