import type { paths } from '../../generated/api'
import { api } from '../api'
import { asked } from './asked'

type Question = paths['/api/v1/tally']['get']['parameters']['query']

/** Figures of a scope, and of what is below it. */
export const figures = (question: Question) =>
  asked(['tally', question], ['work'], (signal) =>
    api.GET('/api/v1/tally', { params: { query: question }, signal }),
  )

export const indicators = () =>
  asked(['indicators'], [], (signal) => api.GET('/api/v1/indicators', { signal }))

/** The values that work of a scope has, with how much work has each. */
export const workValues = (scope: string) =>
  asked(['work-values', scope], ['work'], (signal) =>
    api.POST('/api/v1/lists/{subject}', {
      params: { path: { subject: 'work' } },
      body: {
        scope: scope || null,
        facets: ['work_kind', 'crew', 'department', 'rank', 'class', 'criticality', 'tags'],
        limit: 0,
      } as never,
      signal,
    }),
  )
