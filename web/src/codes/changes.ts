import type { Schemas } from '../common/api'
import { change } from '../common/change/registry'

export const saveCodebook = change(
  'codebook.save',
  { setup: true },
  (api, { code, body }: { code: string; body: Schemas['Codebook'] }, based_on) =>
    api.PUT('/api/v1/codebooks/{code}', { params: { path: { code }, query: { based_on } }, body }),
)
