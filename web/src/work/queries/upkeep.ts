import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'

/** The 52 weeks ahead, with the plans of one crew or week. */
export const yearAhead = (scope: string, crew?: string, week?: number) =>
  asked(['year-ahead', scope, crew, week], ['work'], (signal) =>
    api.GET('/api/v1/upkeep/year', { params: { query: { scope, crew, week } }, signal }),
  )

/** How the year ahead could be levelled. */
export const levelling = (scope: string) =>
  asked(['levelling', scope], ['work'], (signal) =>
    api.GET('/api/v1/upkeep/levelling', { params: { query: { scope } }, signal }),
  )
