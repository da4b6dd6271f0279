import { api } from '../api'
import { asked, askedOffline } from './asked'

export const asset = (code: string) =>
  asked(['asset', code], ['work'], (signal) =>
    api.GET('/api/v1/assets/{code}', { params: { path: { code } }, signal }),
  )

/** The tree as far as it is open. */
export const assets = (depth: number, open: string[]) =>
  asked(['assets', depth, open], ['alarms', 'work'], (signal) =>
    api.GET('/api/v1/assets', { params: { query: { depth, open: open.join(',') || undefined } }, signal }),
  )

export const search = (text: string) =>
  asked(['search', text], [], (signal) =>
    api.GET('/api/v1/search', { params: { query: { q: text } }, signal }),
  )

export const period = (name: string) =>
  asked(['period', name], [], (signal) =>
    api.GET('/api/v1/period', { params: { query: { period: name } }, signal }),
  )

export const settings = () =>
  askedOffline(['settings'], [], (signal) => api.GET('/api/v1/settings', { signal }))

export const clock = () =>
  askedOffline(['clock'], ['readings'], (signal) => api.GET('/api/v1/clock', { signal }))

export const calendars = () => asked(['calendars'], [], (signal) => api.GET('/api/v1/calendars', { signal }))

export const people = () => askedOffline(['people'], [], (signal) => api.GET('/api/v1/people', { signal }))

export const crews = () => askedOffline(['crews'], [], (signal) => api.GET('/api/v1/crews', { signal }))
