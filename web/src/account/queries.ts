import { api } from '../common/api'
import { asked } from '../common/queries/asked'

/** One's own sessions. */
export const sessions = () => asked(['sessions'], [], (signal) => api.GET('/api/v1/sessions', { signal }))

/** One's own passkeys. */
export const passkeys = () => asked(['passkeys'], [], (signal) => api.GET('/api/v1/passkeys', { signal }))

/** Addresses for calendar programs. */
export const feeds = () => asked(['feeds'], [], (signal) => api.GET('/api/v1/work/feeds', { signal }))
