import { computed } from 'vue'
import type { Severity } from '../common/api'
import { severities } from '../common/format'
import { useAddress } from '../common/useAddress'

/** Days before a failure in which a warning counts, unless the address says otherwise. */
export const HORIZON = 30

/** By what limits are judged, from the address: which failures, the least severity that warns, and how long before. */
export function useJudging() {
  const { read, change } = useAddress()
  /** Codes of the problems that are looked at; all where none is named. */
  const problems = computed(() => read('problems').split(',').filter(Boolean))
  const least = computed<Severity>(() => severities.find((one) => one === read('least')) ?? 'alert')
  const horizon = computed(() => Number(read('horizon')) || HORIZON)
  const judging = computed(() => ({
    problems: problems.value.length ? problems.value : undefined,
    least: least.value,
    horizon_days: horizon.value,
  }))
  const choose = (given: { problems?: string[]; least?: Severity; horizon?: number }) =>
    change({
      ...(given.problems && { problems: given.problems.join(',') }),
      ...(given.least && { least: given.least === 'alert' ? '' : given.least }),
      ...(given.horizon && { horizon: given.horizon === HORIZON ? '' : String(given.horizon) }),
    })
  return { problems, least, horizon, judging, choose }
}
