import type { AlarmRow } from '../common/api'
import { useChange } from '../common/change/useChange'
import { acknowledge } from './changes'

/** Acknowledges alarms, and offers to take that back. `within` is where the offer stands. */
export function useAcknowledge(within: string, then?: () => void) {
  const change = useChange(acknowledge, then)
  const send = (alarms: AlarmRow[]) => {
    const [one] = alarms
    change.mutate({
      ids: alarms.map((alarm) => alarm.id),
      says:
        alarms.length === 1
          ? `Acknowledged: ${one!.asset.name}, ${one!.meter_name}`
          : `${alarms.length} alarms acknowledged`,
      within,
    })
  }
  return { acknowledge: send, error: change.error, isPending: change.isPending }
}
