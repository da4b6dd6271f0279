import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'

export const start = () =>
  asked(['start'], ['alarms', 'work'], (signal) => api.GET('/api/v1/start', { signal }))
