import type { ForecastView } from '../common/api'
import { evenly, unit } from '../common/format'

const DAYS = 30

/** Which way a meter goes, with the 95 % interval of its slope. */
export function slopeWords(line: NonNullable<ForecastView['line']>, ucum: string): string {
  const [slope, lower, upper] = [line.slope, line.slope_lower, line.slope_upper].map((one) => one * DAYS)
  const shown = evenly([slope!, lower!, upper!])
  const amount = (one: number) => `${shown(Math.abs(one))} ${unit(ucum)}`.trim()
  const goes = `${slope! < 0 ? 'Falls' : 'Rises'} by ${amount(slope!)} in ${DAYS} days`
  if (lower! < 0 && upper! > 0)
    return `${goes} (95 %: from falling by ${amount(lower!)} to rising by ${amount(upper!)})`
  const bounds = [lower!, upper!].map(Math.abs).sort((a, b) => a - b)
  return `${goes} (95 %: ${bounds.map(shown).join(' to ')})`
}
