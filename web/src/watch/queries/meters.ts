import { queryOptions } from '@tanstack/vue-query'
import { type Ladder, answer, api } from '../../common/api'
import { asked, inParts } from '../../common/queries/asked'
import type { components, paths } from '../../generated/api'

type Schemas = components['schemas']

export const meters = (scope: string, period: string, text: string) =>
  inParts(['meters', scope, period, text], ['readings', 'alarms'], (signal, cursor) =>
    api.GET('/api/v1/meters', {
      params: { query: { scope: scope || undefined, period, text: text || undefined, cursor } },
      signal,
    }),
  )

/** Meters on the machine that an asset belongs to. */
export const metersBeside = (asset: string) =>
  queryOptions({
    queryKey: ['meters', 'beside', asset],
    queryFn: async ({ signal }) => {
      const { above, code } = await answer(
        api.GET('/api/v1/assets/{code}', { params: { path: { code: asset } }, signal }),
      )
      const scope = above.at(-1)?.code ?? code
      return answer(api.GET('/api/v1/meters', { params: { query: { scope, limit: 100 } }, signal }))
    },
    meta: { on: ['readings', 'alarms'] },
  })

export const meter = (code: string) =>
  asked(['meter', code], ['alarms', `meter:${code}`], (signal) =>
    api.GET('/api/v1/meters/{code}', { params: { path: { code } }, signal }),
  )

/** A ladder with the meter that it is of. */
export const ladder = (code: string) =>
  queryOptions({
    queryKey: ['ladder', code],
    queryFn: async ({ signal }) => ({
      ...(await answer(api.GET('/api/v1/meters/{code}/ladder', { params: { path: { code } }, signal }))),
      meter: code,
    }),
  })

export const ladderChanges = (code: string, to: number) =>
  asked(['ladder-changes', code, to], [], (signal) =>
    api.GET('/api/v1/meters/{code}/ladder/changes', {
      params: { path: { code }, query: { from: to - 1, to } },
      signal,
    }),
  )

type Span = NonNullable<paths['/api/v1/meters/{code}/alarms']['get']['parameters']['query']>

export const meterAlarms = (code: string, query: Span) =>
  asked(['meter-alarms', code, query], ['alarms'], (signal) =>
    api.GET('/api/v1/meters/{code}/alarms', { params: { path: { code }, query }, signal }),
  )

export const lanes = (code: string, query: Span) =>
  asked(['lanes', code, query], ['alarms', 'work'], (signal) =>
    api.GET('/api/v1/meters/{code}/lanes', { params: { path: { code }, query }, signal }),
  )

export const readingList = (code: string, apart: boolean) =>
  asked(['reading-list', code, apart], [`meter:${code}`], (signal) =>
    api.GET('/api/v1/meters/{code}/reading-list', {
      params: { path: { code }, query: { apart, limit: 25 } },
      signal,
    }),
  )

export const replay = (code: string, body: Schemas['ReplayBody']) =>
  asked(['replay', code, body], [`meter:${code}`], (signal) =>
    api.POST('/api/v1/meters/{code}/replay', { params: { path: { code } }, body, signal }),
  )

export const forecast = (code: string, body: { from: string; to: string; ladder: Ladder }) =>
  asked(['forecast', code, body], [`meter:${code}`], (signal) =>
    api.POST('/api/v1/meters/{code}/forecast', { params: { path: { code } }, body, signal }),
  )

/** Upkeep plans that make work, by letters of their code or what they do. */
export const activePlans = (text: string) =>
  asked(['active-plans', text], [], async (signal) => {
    const query = { text: text || undefined, filter: 'status:active', limit: 20 }
    const told = await api.GET('/api/v1/master/{kind}', {
      params: { path: { kind: 'upkeep-plans' }, query },
      signal,
    })
    const data = told.data?.rows.map(({ values }) => ({ code: values.code ?? '', name: values.name ?? '' }))
    return { ...told, data }
  })
