import { type Schemas, api } from '../../common/api'
import { asked, askedOffline, inParts } from '../../common/queries/asked'
import type { paths } from '../../generated/api'

type Filter = NonNullable<paths['/api/v1/work-orders']['get']['parameters']['query']>

export const workOrders = (filter: Filter) =>
  inParts(['work-orders', filter], ['work'], (signal, cursor) =>
    api.GET('/api/v1/work-orders', { params: { query: { ...filter, cursor } }, signal }),
  )

export const workOrder = (number: number) =>
  askedOffline(['work-order', number], ['work'], (signal) =>
    api.GET('/api/v1/work-orders/{number}', { params: { path: { number } }, signal }),
  )

/** A check sheet of an order. */
export const check = (number: number, id: number) =>
  askedOffline(['check', number, id], ['work'], (signal) =>
    api.GET('/api/v1/work-orders/{number}/checks/{id}', { params: { path: { number, id } }, signal }),
  )

/** Decisions that are open. */
export const decisions = () =>
  asked(['decisions'], ['work'], (signal) => api.GET('/api/v1/decisions', { signal }))

type Typed = NonNullable<paths['/api/v1/downtime/odd']['get']['parameters']['query']>

/** What is odd about downtime that is being typed. */
export const oddDowntime = (typed: Typed) =>
  asked(['odd-downtime', typed], ['work'], (signal) =>
    api.GET('/api/v1/downtime/odd', { params: { query: typed }, signal }),
  )

/** A week by crew and day. */
export const week = (scope: string, day: string) =>
  asked(['week', scope, day], ['work'], (signal) =>
    api.GET('/api/v1/work/week', { params: { query: { scope, day } }, signal }),
  )

/** What would be done to several orders. */
export const severalTried = (body: Schemas['Several']) =>
  asked(['several', body], ['work'], (signal) =>
    api.POST('/api/v1/work-orders/several', { params: { query: { dry_run: true } }, body, signal }),
  )

/** Open work near an asset, raised lately: what may be about the same as the words first. */
export const alreadyRaised = (asset: string, title: string) =>
  asked(['already-raised', asset, title], ['work'], (signal) =>
    api.GET('/api/v1/work-orders/already-raised', { params: { query: { asset, title } }, signal }),
  )

/** Parts that the storeroom keeps, by letters; what fits an asset first. */
export const storeroom = (text: string, asset: string) =>
  asked(['storeroom', text, asset], ['work'], (signal) =>
    api.GET('/api/v1/storeroom', { params: { query: { text, asset } }, signal }),
  )

/** What was bought so far, and of whom, by letters of the name. */
export const items = (text: string) =>
  asked(['items', text], ['work'], (signal) =>
    api.GET('/api/v1/items', { params: { query: { text } }, signal }),
  )
export const suppliers = (text: string) =>
  asked(['suppliers', text], ['work'], (signal) =>
    api.GET('/api/v1/suppliers', { params: { query: { text } }, signal }),
  )
