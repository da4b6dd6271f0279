import type { paths } from '../../generated/api'
import { api } from '../api'
import { asked } from './asked'

/** A stretch of time in milliseconds. */
interface View {
  from: number
  to: number
}

const span = ({ from, to }: View) => ({
  from: new Date(from).toISOString(),
  to: new Date(to).toISOString(),
})

/** What a meter read in a stretch, thinned to so many points. */
export const series = (meter: string, view: View, points: number) =>
  asked(['series', meter, view, points], [`meter:${meter}`], (signal) =>
    api.GET('/api/v1/meters/{code}/readings', {
      params: { path: { code: meter }, query: { ...span(view), points } },
      signal,
    }),
  )

type Show = NonNullable<paths['/api/v1/alarms']['get']['parameters']['query']>['show']

export const alarms = (scope: string, show: Show = undefined) =>
  asked(['alarms', scope, show], ['alarms'], (signal) =>
    api.GET('/api/v1/alarms', { params: { query: { scope: scope || undefined, show } }, signal }),
  )
