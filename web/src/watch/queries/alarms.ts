import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'

/** How well alarms do; what chatters has so many entries in so many seconds. */
export const alarmPerformance = (
  scope: string,
  period: string,
  chatter: { entries: number; seconds: number },
) =>
  asked(['alarm-performance', scope, period, chatter], ['alarms'], (signal) =>
    api.GET('/api/v1/alarms/performance', {
      params: {
        query: {
          scope: scope || undefined,
          period,
          chatter_entries: chatter.entries,
          chatter_seconds: chatter.seconds,
        },
      },
      signal,
    }),
  )
