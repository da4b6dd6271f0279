import { api } from '../../common/api'
import { asked } from '../../common/queries/asked'

/** The line of time of a person or a crew; of whoever looks where neither is said. */
export const shift = (person: string, crew: string) =>
  asked(['shift', person, crew], ['work'], (signal) =>
    api.GET('/api/v1/shift', { params: { query: { person, crew } }, signal }),
  )
