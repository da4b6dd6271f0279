import { type Schemas, api } from '../api'
import type { Topic } from '../live/news'
import { asked, inParts } from './asked'
import type { Asked, SubjectId } from '../list/asked'

/** What can be listed, with its columns. */
export const subjects = () => asked(['lists'], [], (signal) => api.GET('/api/v1/lists', { signal }))

const body = (ask: Asked) => ask as Schemas['Asked']

/** What lists of it hang on. */
const topics = (subject: SubjectId): Topic[] => (subject === 'alarms' ? ['alarms', 'work'] : ['work'])

/** Rows of a list in parts, with what all of it comes to. */
export const rows = (subject: SubjectId, ask: Asked) =>
  inParts(['list', subject, ask], topics(subject), (signal, cursor) =>
    api.POST('/api/v1/lists/{subject}', {
      params: { path: { subject } },
      body: body({ ...ask, cursor: cursor ?? null }),
      signal,
    }),
  )

/** Groups and totals of a list, without its rows. */
export const groups = (subject: SubjectId, ask: Asked) =>
  asked(['list-groups', subject, ask], topics(subject), (signal) =>
    api.POST('/api/v1/lists/{subject}', {
      params: { path: { subject } },
      body: body({ ...ask, limit: 0 }),
      signal,
    }),
  )

/** Views of a list that were kept: one's own, and those that others share. */
export const views = (subject: SubjectId) =>
  asked(['views', subject], [], (signal) =>
    api.GET('/api/v1/lists/{subject}/views', { params: { path: { subject } }, signal }),
  )
