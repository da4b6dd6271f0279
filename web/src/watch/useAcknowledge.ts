import { answer, api, type AlarmRow } from '../common/api'
import { lastChange } from '../common/change/undo'
import { useChange } from '../common/change/useChange'

/** Acknowledges alarms, and offers to take that back. `within` is where the offer stands. */
export function useAcknowledge(within: string, then?: () => void) {
  const change = useChange(async (alarms: AlarmRow[]) => {
    const ids = alarms.map((alarm) => alarm.id)
    await answer(api.POST('/api/v1/alarms/acknowledge', { body: { ids } }))
    const [one] = alarms
    lastChange.value = {
      says:
        alarms.length === 1
          ? `Acknowledged: ${one!.asset.name}, ${one!.meter_name}`
          : `${alarms.length} alarms acknowledged`,
      take: () => answer(api.POST('/api/v1/alarms/acknowledge/take-back', { body: { ids } })),
      within,
    }
  }, then)
  return { acknowledge: change.mutate, error: change.error, isPending: change.isPending }
}
