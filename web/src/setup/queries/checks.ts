import { type Schemas, api } from '../../common/api'
import { asked } from '../../common/queries/asked'

/** What would follow from answers on a check sheet. */
export const checkTried = (body: Schemas['TriedSheet']) =>
  asked(['check-tried', body], [], (signal) => api.POST('/api/v1/check-sheets/try', { body, signal }))

/** Questions of all check sheets in which some words stand. */
export const askedElsewhere = (text: string) =>
  asked(['check-questions', text], ['work'], (signal) =>
    api.GET('/api/v1/check-questions', { params: { query: { text } }, signal }),
  )
