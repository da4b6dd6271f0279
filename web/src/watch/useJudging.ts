import { computed } from 'vue'
import type { Severity } from '../common/api'
import { severities } from '../generated/words'
import { useAddress } from '../common/useAddress'

/** Days before a failure in which a warning counts, unless the address says otherwise. */
export const HORIZON = 30
/** Days between spells that still make one warning. */
export const CALM = 7
/** Days that it takes to act: a shorter warning is too late. */
export const LEAD = 1

/** By what limits are judged, from the address: which failures, the least severity that warns, and what makes a warning. */
export function useJudging() {
  const { read, change } = useAddress()
  /** Codes of the problems that are looked at; all where none is named. */
  const problems = computed(() => read('problems').split(',').filter(Boolean))
  const least = computed<Severity>(() => severities.find((one) => one === read('least')) ?? 'alert')
  const horizon = computed(() => Number(read('horizon')) || HORIZON)
  const given = (key: string, first: number) => {
    const days = Number(read(key))
    return read(key) !== '' && days >= 0 ? days : first
  }
  const calm = computed(() => given('calm', CALM))
  const lead = computed(() => given('lead', LEAD))
  const judging = computed(() => ({
    problems: problems.value.length ? problems.value : undefined,
    least: least.value,
    horizon_days: horizon.value,
    calm_days: calm.value,
    lead_days: lead.value,
  }))
  const choose = (given: {
    problems?: string[]
    least?: Severity
    horizon?: number
    calm?: number
    lead?: number
  }) =>
    change({
      ...(given.problems && { problems: given.problems.join(',') }),
      ...(given.least && { least: given.least === 'alert' ? '' : given.least }),
      ...(given.calm !== undefined && { calm: given.calm === CALM ? '' : String(given.calm) }),
      ...(given.lead !== undefined && { lead: given.lead === LEAD ? '' : String(given.lead) }),
      ...(given.horizon && { horizon: given.horizon === HORIZON ? '' : String(given.horizon) }),
    })
  return { problems, least, horizon, calm, lead, judging, choose }
}
