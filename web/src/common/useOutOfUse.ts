import { change } from './change/registry'
import { useChange } from './change/useChange'

const held = { alarms: true, work: true, setup: true }

export const putOutOfUse = change(
  'asset.out-of-use',
  held,
  (api, { code, ...body }: { code: string; reason: string; from?: string; until?: string }) =>
    api.PUT('/api/v1/assets/{code}/out-of-use', { params: { path: { code } }, body }),
)

export const backInUse = change('asset.back-in-use', held, (api, code: string) =>
  api.DELETE('/api/v1/assets/{code}/out-of-use', { params: { path: { code } } }),
)

/** Puts assets out of use, and takes them back. */
export function useOutOfUse(done?: () => void) {
  return { put: useChange(putOutOfUse, () => done?.()), end: useChange(backInUse) }
}
