import type { Schemas } from '../common/api'
import { change } from '../common/change/registry'
import type { SubjectId } from '../common/list/asked'

/** What is done to views of lists. */
const setup = { setup: true }

export const keepView = change(
  'list.view.keep',
  setup,
  (api, { subject, view }: { subject: SubjectId; view: Schemas['NewView'] }) =>
    api.POST('/api/v1/lists/{subject}/views', { params: { path: { subject } }, body: view }),
)

export const dropView = change(
  'list.view.drop',
  setup,
  (api, { subject, id }: { subject: SubjectId; id: number }) =>
    api.DELETE('/api/v1/lists/{subject}/views/{id}', { params: { path: { subject, id } } }),
)
