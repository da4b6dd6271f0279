import type { Schemas } from '../api'
import { change } from './registry'

export const enterReadings = change(
  'readings.enter',
  (body: Schemas['ReadingBody'][]) => ({ alarms: true, work: true, meters: body.map((one) => one.meter) }),
  (api, body) => api.POST('/api/v1/readings', { params: { query: { source: 'entered' } }, body }),
  undefined,
  {
    says: (body) => `Read: ${body.map(({ meter }) => meter).join(', ')}`,
    tells: ({ late, work_orders }) =>
      [
        late ? 'A reading came late, and stands among those that somebody has to judge.' : '',
        work_orders.length ? `What was read raised or joined work ${work_orders.join(', ')}.` : '',
      ]
        .filter(Boolean)
        .join(' ') || undefined,
  },
)
