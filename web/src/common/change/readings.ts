import type { Schemas } from '../api'
import { change } from './registry'

export const enterReadings = change(
  'readings.enter',
  (body: Schemas['ReadingBody'][]) => ({ alarms: true, work: true, meters: body.map((one) => one.meter) }),
  (api, body) => api.POST('/api/v1/readings', { params: { query: { source: 'entered' } }, body }),
)
