import { count, plain, unit } from '../common/format'

interface Recurs {
  every_days?: number | null
  every_units?: number | null
  /** Of the counter. */
  unit?: string | null
}

/** How often upkeep recurs: `180 days or 1100 h`. */
export function everyWords({ every_days, every_units, unit: of }: Recurs): string {
  const days = every_days ? count(every_days, 'day', 'days') : ''
  const units = every_units ? `${plain(every_units)} ${unit(of ?? '1')}`.trim() : ''
  return [days, units].filter(Boolean).join(' or ')
}
