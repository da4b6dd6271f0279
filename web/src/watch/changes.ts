import type { Schemas } from '../common/api'
import { change, command } from '../common/change/registry'
import type { FamilyPath } from './queries/tried'

/** What is done to readings, alarms and limits. */
const alarms = { alarms: true }
const ofMeter = ({ meter }: { meter: string }) => ({ alarms: true, work: true, meters: [meter] })
const set = { setup: true }
const path = (code: string) => ({ path: { code } })

export const voidReading = change(
  'readings.void',
  ofMeter,
  (api, { meter, ...body }: { meter: string; at: string; reason: string }) =>
    api.POST('/api/v1/meters/{code}/void', { params: path(meter), body }),
)

export const releaseReading = change(
  'readings.release',
  ofMeter,
  (api, { meter, at }: { meter: string; at: string }) =>
    api.POST('/api/v1/meters/{code}/release', { params: path(meter), body: { at } }),
)

export const noteExchange = change(
  'meter.exchange',
  ofMeter,
  (api, { meter, ...body }: { meter: string } & Schemas['NewExchange']) =>
    api.POST('/api/v1/meters/{code}/exchange', { params: path(meter), body }),
)

export const judgeLate = change(
  'readings.judge',
  alarms,
  (api, { id, judgement }: { id: number; judgement: string }) =>
    api.POST('/api/v1/late-readings/{id}/judge', { params: { path: { id } }, body: { judgement } }),
)

export const shelve = change(
  'meter.shelve',
  alarms,
  (api, { meter, ...body }: { meter: string; until: string; reason: string }) =>
    api.PUT('/api/v1/meters/{code}/shelf', { params: path(meter), body }),
)

export const unshelve = change('meter.unshelve', { alarms: true, work: true }, (api, meter: string) =>
  api.DELETE('/api/v1/meters/{code}/shelf', { params: path(meter) }),
)

export const takeBackAcknowledgement = change('alarms.acknowledge.take-back', alarms, (api, ids: number[]) =>
  api.POST('/api/v1/alarms/acknowledge/take-back', { body: { ids } }),
)

export const acknowledge = change(
  'alarms.acknowledge',
  alarms,
  (api, { ids }: { ids: number[]; says: string; within: string }) =>
    api.POST('/api/v1/alarms/acknowledge', { body: { ids } }),
  ({ ids, says, within }) => ({ says, takes: command(takeBackAcknowledgement, ids), within }),
)

export const setLimits = change(
  'limits.set',
  set,
  (api, { meter, body }: { meter: string; body: Schemas['NewLadder'] }, based_on) =>
    api.PUT('/api/v1/meters/{code}/ladder', { params: { ...path(meter), query: { based_on } }, body }),
)

export const approveLimits = change('limits.approve', set, (api, meter: string) =>
  api.POST('/api/v1/meters/{code}/ladder/approve', { params: path(meter) }),
)

export const turnDownLimits = change('limits.turn-down', set, (api, meter: string) =>
  api.DELETE('/api/v1/meters/{code}/ladder/proposed', { params: path(meter) }),
)

export const setFamily = change(
  'family.set',
  set,
  (api, { family, body }: { family: FamilyPath; body: Schemas['FamilyLadder'] }, based_on) =>
    api.PUT('/api/v1/families/{class}/{name}', { params: { path: family, query: { based_on } }, body }),
)

export const approveFamily = change('family.approve', set, (api, family: FamilyPath) =>
  api.POST('/api/v1/families/{class}/{name}/approve', { params: { path: family } }),
)

export const turnDownFamily = change('family.turn-down', set, (api, family: FamilyPath) =>
  api.DELETE('/api/v1/families/{class}/{name}/proposed', { params: { path: family } }),
)
