import { api } from '../../common/api'
import type { Topic } from '../../common/live/news'
import { asked } from '../../common/queries/asked'
import type { components } from '../../generated/api'

type Schemas = components['schemas']

/** A family: its equipment class, and the name that its meters share. */
export interface FamilyPath {
  class: string
  name: string
}

/** Whose limits are tried: a meter's, by its code, or a family's. */
export type Subject = { meter: string } | { family: FamilyPath }

const topics = (of: Subject): Topic[] => ('meter' in of ? [`meter:${of.meter}`] : [])

/**
 * What each setpoint of a rung would have come to. `shape` is what the answer depends on: wherever the rung stands now, it
 * is the same.
 */
export const finder = (of: Subject, shape: string, body: Schemas['FinderBody']) =>
  asked(['finder', of, { ...body, ladder: shape }], topics(of), (signal) =>
    'meter' in of
      ? api.POST('/api/v1/meters/{code}/finder', { params: { path: { code: of.meter } }, body, signal })
      : api.POST('/api/v1/families/{class}/{name}/finder', { params: { path: of.family }, body, signal }),
  )

/** The setpoints that a window of readings speaks for. */
export const proposals = (of: Subject, body: Schemas['ProposalsBody']) =>
  asked(['proposals', of, body], topics(of), (signal) =>
    'meter' in of
      ? api.POST('/api/v1/meters/{code}/proposals', { params: { path: { code: of.meter } }, body, signal })
      : api.POST('/api/v1/families/{class}/{name}/proposals', { params: { path: of.family }, body, signal }),
  )

/** On which meters of a family what would change. */
export const familyTrial = (family: FamilyPath, body: Schemas['FamilyLadder']) =>
  asked(['family-trial', family, body], [], (signal) =>
    api.PUT('/api/v1/families/{class}/{name}', {
      params: { path: family, query: { dry_run: true } },
      body,
      signal,
    }),
  )
