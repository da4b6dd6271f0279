import { queryOptions } from '@tanstack/vue-query'
import { type Schemas, answer, api } from '../../common/api'
import { asked, inParts } from '../../common/queries/asked'
import type { paths } from '../../generated/api'
import type { Column, Kind } from '../kinds'

type Filter = NonNullable<paths['/api/v1/master/{kind}']['get']['parameters']['query']>

export const master = (kind: Kind, filter: Filter) =>
  inParts(['master', kind, filter], [], (signal, cursor) =>
    api.GET('/api/v1/master/{kind}', { params: { path: { kind }, query: { ...filter, cursor } }, signal }),
  )

/** The values of one row; nothing for a code that is not there. */
export const masterRow = (kind: Kind, code: string) =>
  queryOptions({
    queryKey: ['master-row', kind, code],
    queryFn: async ({ signal }) => {
      const query = { filter: `code:${code}`, all: true, limit: 1 }
      const page = await answer(
        api.GET('/api/v1/master/{kind}', { params: { path: { kind }, query }, signal }),
      )
      return page.rows[0]?.values ?? null
    },
  })

/** What a column can be filled with that names another row. */
export const choices = (form: Column['form'], text: string) =>
  queryOptions({
    queryKey: ['choices', form, text],
    queryFn: async ({ signal }) => {
      if (form.kind === 'calendar') return answer(api.GET('/api/v1/calendars', { signal }))
      if (form.kind === 'job_sheet') {
        const sheets = await answer(api.GET('/api/v1/job-sheets', { signal }))
        return sheets.map(({ code, title }) => ({ code, name: title }))
      }
      if (form.kind !== 'refers') return []
      const page = await answer(
        api.GET('/api/v1/master/{kind}', {
          params: { path: { kind: form.to }, query: { text: text || undefined, limit: 20 } },
          signal,
        }),
      )
      return page.rows.map((row) => ({ code: row.values.code ?? '', name: row.values.name ?? '' }))
    },
  })

type Which = NonNullable<paths['/api/v1/changes']['get']['parameters']['query']>

/** Who changed what, the newest first. */
export const changes = (which: Which) =>
  asked(['changes', which], [], (signal) => api.GET('/api/v1/changes', { params: { query: which }, signal }))

/** Values that are set from a day on, of one kind. */
export const values = (kind: Schemas['ValueKind']) =>
  asked(['values', kind], [], (signal) => api.GET('/api/v1/values', { params: { query: { kind } }, signal }))

/** One upkeep plan with its cycles. */
export const upkeepPlan = (code: string) =>
  asked(['upkeep-plan', code], ['work'], (signal) =>
    api.GET('/api/v1/upkeep/plans/{code}', { params: { path: { code } }, signal }),
  )
