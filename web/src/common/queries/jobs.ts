import { api } from '../api'
import { asked } from './asked'

/** The job sheets there are. */
export const jobSheets = () =>
  asked(['job-sheets'], ['work'], (signal) => api.GET('/api/v1/job-sheets', { signal }))

export const jobSheet = (code: string) =>
  asked(['job-sheet', code], ['work'], (signal) =>
    api.GET('/api/v1/job-sheets/{code}', { params: { path: { code } }, signal }),
  )
