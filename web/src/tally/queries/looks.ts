import type { paths } from '../../generated/api'
import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'

type Query<Path extends keyof paths> = paths[Path] extends { get: { parameters: { query?: infer Q } } }
  ? Q
  : never

/** All assets of a scope by one figure. */
export const ranking = (query: NonNullable<Query<'/api/v1/tally/ranking'>>) =>
  asked(['ranking', query], ['work'], (signal) =>
    api.GET('/api/v1/tally/ranking', { params: { query }, signal }),
  )

/** A difference between two periods, taken apart. */
export const changed = (query: NonNullable<Query<'/api/v1/tally/changed'>>) =>
  asked(['changed', query], ['work'], (signal) =>
    api.GET('/api/v1/tally/changed', { params: { query }, signal }),
  )

/** Open work, now and as of the ends of months. */
export const backlog = (query: Query<'/api/v1/tally/backlog'>) =>
  asked(['backlog', query], ['work'], (signal) =>
    api.GET('/api/v1/tally/backlog', { params: { query }, signal }),
  )

/** Who stopped whom. */
export const downtime = (query: Query<'/api/v1/tally/downtime'>) =>
  asked(['downtime', query], ['work'], (signal) =>
    api.GET('/api/v1/tally/downtime', { params: { query }, signal }),
  )

/** What the fiscal year will have cost. */
export const forecast = (query: Query<'/api/v1/tally/forecast'>) =>
  asked(['forecast', query], ['work'], (signal) =>
    api.GET('/api/v1/tally/forecast', { params: { query }, signal }),
  )

/** The current risk in a few sentences. */
export const headlines = (query: Query<'/api/v1/headlines'>) =>
  asked(['headlines', query], ['work'], (signal) =>
    api.GET('/api/v1/headlines', { params: { query }, signal }),
  )
