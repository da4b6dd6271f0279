import { api } from '../api'
import { asked } from './asked'

/** The job sheets there are. */
export const jobSheets = () =>
  asked(['job-sheets'], ['work'], (signal) => api.GET('/api/v1/job-sheets', { signal }))

export const jobSheet = (code: string) =>
  asked(['job-sheet', code], ['work'], (signal) =>
    api.GET('/api/v1/job-sheets/{code}', { params: { path: { code } }, signal }),
  )

export const checkSheets = () =>
  asked(['check-sheets'], ['work'], (signal) => api.GET('/api/v1/check-sheets', { signal }))

export const checkSheet = (code: string) =>
  asked(['check-sheet', code], ['work'], (signal) =>
    api.GET('/api/v1/check-sheets/{code}', { params: { path: { code } }, signal }),
  )

/** The part of the tree that visits to these assets lie in. */
export const roundMap = (visits: string[]) =>
  asked(['round-map', ...visits], [], (signal) =>
    api.GET('/api/v1/rounds/map', { params: { query: { visits: visits.join(',') } }, signal }),
  )
