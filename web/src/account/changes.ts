import type { Schemas } from '../common/api'
import { change } from '../common/change/registry'

/** One's own way in: what hangs on it is read with everything that is set up. */
const set = { setup: true }

export const changePassword = change('password.change', set, (api, body: Schemas['NewPassword']) =>
  api.PUT('/api/v1/session/password', { body }),
)

export const endSession = change('session.end', set, (api, id: number) =>
  api.DELETE('/api/v1/sessions/{id}', { params: { path: { id } } }),
)

export const endOthers = change<null, unknown>('session.end-others', set, (api) =>
  api.DELETE('/api/v1/sessions'),
)

export const addPasskey = change('passkey.add', set, (api, body: Schemas['NewPasskey']) =>
  api.POST('/api/v1/passkeys', { body }),
)

export const removePasskey = change('passkey.remove', set, (api, id: number) =>
  api.DELETE('/api/v1/passkeys/{id}', { params: { path: { id } } }),
)

export const setPin = change('pin.set', set, (api, body: Schemas['NewPin']) =>
  api.PUT('/api/v1/session/pin', { body }),
)

export const forgetPin = change<null, unknown>('pin.forget', set, (api) => api.DELETE('/api/v1/session/pin'))

export const renewFeed = change('feed.renew', set, (api, { crew }: { crew?: string | null }) =>
  api.POST('/api/v1/work/feeds', { body: { crew } }),
)

export const takeFeedAway = change('feed.take-away', set, (api, { crew }: { crew?: string | null }) =>
  api.DELETE('/api/v1/work/feeds', { params: { query: { crew: crew ?? undefined } } }),
)
