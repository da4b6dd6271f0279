import type { Schemas } from '../common/api'
import { change, command } from '../common/change/registry'
import type { Effect } from './effect'
import type { Kind, Values } from './kinds'

/** What is set up. */
const set = { setup: true }
const path = (code: string) => ({ path: { code } })

export const saveRows = change(
  'master.save',
  set,
  (api, { kind, ...body }: { kind: Kind; rows: { values: Values; was: Values }[]; reason: string }) =>
    api.POST('/api/v1/master/{kind}', { params: { path: { kind } }, body }),
)

export const saveJobSheet = change(
  'job-sheet.save',
  { setup: true },
  (api, { code, body }: { code: string; body: Schemas['JobSheet'] }, based_on) =>
    api.PUT('/api/v1/job-sheets/{code}', { params: { ...path(code), query: { based_on } }, body }),
)

export const saveCheckSheet = change(
  'check-sheet.save',
  { setup: true },
  (api, { code, body }: { code: string; body: Schemas['CheckSheet'] }, based_on) =>
    api.PUT('/api/v1/check-sheets/{code}', { params: { ...path(code), query: { based_on } }, body }),
)

/** The next cycle of an upkeep plan is raised now. */
export const raisePlanNow = change(
  'upkeep.now',
  { work: true },
  (api, { code, asset }: { code: string; asset: string }) =>
    api.POST('/api/v1/upkeep/plans/{code}/now', { params: path(code), body: { asset } }),
)

export const moveAsset = change(
  'asset.move',
  set,
  (api, { code, ...body }: { code: string; parent: string | null; at: string; reason: string }) =>
    api.POST('/api/v1/assets/{code}/move', { params: path(code), body }),
)

export const setEffect = change(
  'asset.effect',
  set,
  (api, { code, ...body }: { code: string; effect: Effect; from: string }) =>
    api.PUT('/api/v1/assets/{code}/parent-effect', { params: path(code), body }),
)

export const assignCalendar = change(
  'asset.calendar',
  set,
  (api, { code, ...body }: { code: string; calendar: string; from: string }) =>
    api.PUT('/api/v1/assets/{code}/calendar', { params: path(code), body }),
)

export const saveCalendar = change(
  'calendar.save',
  set,
  (api, { kept, body }: { kept?: string; body: Schemas['NewCalendar'] }) =>
    kept === undefined
      ? api.POST('/api/v1/calendars', { body })
      : api.PUT('/api/v1/calendars/{code}', { params: path(kept), body }),
)

export const saveSettings = change('settings.save', set, (api, body: Schemas['Settings'], based_on) =>
  api.PUT('/api/v1/settings', { params: { query: { based_on } }, body }),
)

export const approveOff = change<null, unknown>('settings.approve', set, (api) =>
  api.POST('/api/v1/settings/second-approval/approve'),
)

export const turnDownOff = change<null, unknown>('settings.turn-down', set, (api) =>
  api.DELETE('/api/v1/settings/second-approval/proposed'),
)

export const addWebhook = change('webhook.add', set, (api, body: Schemas['NewWebhook']) =>
  api.POST('/api/v1/webhooks', { body }),
)

export const stopWebhook = change('webhook.stop', set, (api, id: number) =>
  api.DELETE('/api/v1/webhooks/{id}', { params: { path: { id } } }),
)

export const resendFailed = change('webhook.resend', set, (api, id: number) =>
  api.POST('/api/v1/webhooks/{id}/resend', { params: { path: { id } } }),
)

export const resendDelivery = change('delivery.resend', set, (api, id: number) =>
  api.POST('/api/v1/deliveries/{id}/resend', { params: { path: { id } } }),
)

export const addKey = change('key.add', set, (api, body: Schemas['NewKey']) =>
  api.POST('/api/v1/keys', { body }),
)

export const revokeKey = change('key.revoke', set, (api, name: string) =>
  api.DELETE('/api/v1/keys/{name}', { params: { path: { name } } }),
)

export const shareDevice = change('device.share', set, (api, body: Schemas['NewDevice']) =>
  api.POST('/api/v1/devices', { body }),
)

export const unshareDevice = change('device.unshare', set, (api, id: number) =>
  api.DELETE('/api/v1/devices/{id}', { params: { path: { id } } }),
)

export const makeResetCode = change('person.code', set, (api, code: string) =>
  api.POST('/api/v1/people/{code}/reset-code', { params: path(code) }),
)

export const endSessionsOf = change('person.end-sessions', set, (api, code: string) =>
  api.DELETE('/api/v1/people/{code}/sessions', { params: path(code) }),
)

export const makeBackup = change<null, unknown>('backup.make', set, (api) => api.POST('/api/v1/backups'))

export const setTag = change('tag.set', set, (api, body: { tag: string; meter: string; unit?: string }) =>
  api.PUT('/api/v1/tags', { body }),
)

export const removeTag = change('tag.remove', set, (api, tag: string) =>
  api.DELETE('/api/v1/tags/{tag}', { params: { path: { tag } } }),
)

export const setValue = change('value.set', set, (api, body: Schemas['NewValue']) =>
  api.POST('/api/v1/values', { body }),
)

export const removeValue = change(
  'value.remove',
  set,
  (api, { id }: { id: number; was: Schemas['NewValue'] }) =>
    api.DELETE('/api/v1/values/{id}', { params: { path: { id } } }),
  ({ was }) => ({
    says: `Taken away: ${was.of} from ${was.from}`,
    takes: command(setValue, was),
    within: '/setup/values',
  }),
)
