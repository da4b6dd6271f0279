import type { Ladder } from '../../common/api'
import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'
import type { components } from '../../generated/api'

type Schemas = components['schemas']

export const families = (scope: string) =>
  asked(['families', scope], [], (signal) =>
    api.GET('/api/v1/families', { params: { query: { scope: scope || undefined } }, signal }),
  )

const of = (equipmentClass: string, name: string) => ({ path: { class: equipmentClass, name } })

export const family = (equipmentClass: string, name: string) =>
  asked(['family', equipmentClass, name], [], (signal) =>
    api.GET('/api/v1/families/{class}/{name}', { params: of(equipmentClass, name), signal }),
  )

export const familyReplay = (equipmentClass: string, name: string, body: Schemas['ReplayBody']) =>
  asked(['family-replay', equipmentClass, name, body], [], (signal) =>
    api.POST('/api/v1/families/{class}/{name}/replay', { params: of(equipmentClass, name), body, signal }),
  )

export const familyForecast = (
  equipmentClass: string,
  name: string,
  body: { period: string; ladder: Ladder },
) =>
  asked(['family-forecast', equipmentClass, name, body], [], (signal) =>
    api.POST('/api/v1/families/{class}/{name}/forecast', { params: of(equipmentClass, name), body, signal }),
  )
