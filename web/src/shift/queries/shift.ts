import { api } from '../../common/api'
import { asked, askedOffline } from '../../common/queries/asked'

/** The line of time of a person or a crew; of whoever looks where neither is said. */
export const shift = (person: string, crew: string) =>
  askedOffline(['shift', person, crew], ['work'], (signal) =>
    api.GET('/api/v1/shift', { params: { query: { person, crew } }, signal }),
  )

/** What is taken along to where there is no network. */
export const takenAlong = () =>
  asked(['taken-along'], [], (signal) => api.GET('/api/v1/shift/taken-along', { signal }))
