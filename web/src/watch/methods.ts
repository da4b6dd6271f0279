import { plain } from '../common/format'
import type { MachineGroup, Proposal } from '../common/api'

/** How a setpoint was proposed, in short. */
export const methodWords: Record<Proposal['method'], string> = {
  mean_sigma: 'mean and deviation',
  median_mad: 'median and MAD',
  individuals: 'individuals chart',
  ewma: 'moving average',
  tolerance: 'tolerance limit',
  percentile: 'percentile',
  vibration: 'ISO 20816',
}

/** Machines by size and foundation. */
export const machineWords: Record<MachineGroup, string> = {
  medium_rigid: 'medium, rigid foundation',
  medium_flexible: 'medium, flexible foundation',
  large_rigid: 'large, rigid foundation',
  large_flexible: 'large, flexible foundation',
}

/** The p-value of a test, as it is written. */
export const pWords = (p: number) => (p < 0.001 ? 'p < 0.001' : `p = ${plain(p)}`)
