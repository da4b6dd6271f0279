import { answer, api } from './api'
import { useChange } from './change/useChange'

/** Puts assets out of use, and takes them back. */
export function useOutOfUse(done?: () => void) {
  const put = useChange(
    ({ code, ...body }: { code: string; reason: string; from?: string; until?: string }) =>
      answer(api.PUT('/api/v1/assets/{code}/out-of-use', { params: { path: { code } }, body })),
    () => done?.(),
  )
  const end = useChange((code: string) =>
    answer(api.DELETE('/api/v1/assets/{code}/out-of-use', { params: { path: { code } } })),
  )
  return { put, end }
}
