import { infiniteQueryOptions } from '@tanstack/vue-query'
import { answer, api } from '../../common/api'
import { asked } from '../../common/queries/asked'

export const webhooks = () => asked(['webhooks'], [], (signal) => api.GET('/api/v1/webhooks', { signal }))

/** Keys of gateways and scripts. */
export const keys = () => asked(['keys'], [], (signal) => api.GET('/api/v1/keys', { signal }))

/** Devices that people share. */
export const devices = () => asked(['devices'], [], (signal) => api.GET('/api/v1/devices', { signal }))

/** Backups, and the one that is being made. */
export const backups = () => asked(['backups'], [], (signal) => api.GET('/api/v1/backups', { signal }))

export const tags = () => asked(['tags'], [], (signal) => api.GET('/api/v1/tags', { signal }))

/** Mail to people, the newest first. */
export const outbox = () =>
  infiniteQueryOptions({
    queryKey: ['outbox'],
    queryFn: ({ signal, pageParam }) =>
      answer(api.GET('/api/v1/outbox', { params: { query: { cursor: pageParam, limit: 12 } }, signal })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => (page.next_cursor ? Number(page.next_cursor) : undefined),
    meta: { on: ['work'] },
  })
