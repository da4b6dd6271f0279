import createClient, { type Middleware } from 'openapi-fetch'
import type { components, paths } from '../generated/api'
import { reaching } from './offline/network'
import { regaining } from './session/regaining'

export type Schemas = components['schemas']
export type AlarmRow = Schemas['AlarmRow']
export type AlarmsNow = Schemas['AlarmsNow']
export type AssetDetail = Schemas['AssetDetail']
export type AssetNode = Schemas['AssetNode']
export type Codebook = Schemas['Codebook']
export type CodebookView = Schemas['CodebookView']
export type CodeNode = Schemas['CodeNode']
export type Definition = Schemas['Definition']
export type Figure = Schemas['Figure']
export type FamilyReceipt = Schemas['FamilyReceipt']
export type FinderPoint = Schemas['Tried']
export type FinderView = Schemas['FinderView']
export type ForecastView = Schemas['ForecastView']
export type Hit = Schemas['Hit']
export type Ladder = Schemas['Ladder']
export type LadderView = Schemas['LadderView']
export type LadderChange = Schemas['LadderChange']
export type LateRow = Schemas['LateRow']
export type MachineGroup = Schemas['MachineGroup']
export type MeterDetail = Schemas['MeterDetail']
export type MeterRow = Schemas['MeterRow']
export type MeterForecast = Schemas['MeterForecast']
export type Proposal = Schemas['Proposal']
export type ProblemCount = Schemas['ProblemCount']
export type ProposalsView = Schemas['ProposalsView']
export type ReadingRow = Schemas['ReadingRow']
export type ReplayView = Schemas['ReplayView']
export type Rung = Schemas['Rung']
export type Settings = Schemas['Settings']
export type Severity = Schemas['Severity']
export type ShelfRow = Schemas['ShelfRow']
export type TallyRow = Schemas['TallyRow']
export type WhyView = Schemas['WhyView']
export type WorkDetail = Schemas['WorkDetail']
export type WorkKind = Schemas['WorkKind']
export type WorkRow = Schemas['WorkRow']
export type WorkState = Schemas['WorkState']
export type WorkSpan = Schemas['WorkSpan']

/** What every request goes through on its way. */
export const between: Middleware[] = [reaching, regaining()]

/** A client of the API, with more headers of its own. */
export function client(headers: Record<string, string> = {}) {
  const made = createClient<paths>({ headers })
  made.use(...between)
  return made
}
export type Client = ReturnType<typeof client>

export const api = client()

/** Problem details as the server sends them, with the fields at fault. */
export class Problem extends Error {
  readonly status: number
  readonly fields: { field: string; reason: string }[]

  /** It is done all the same: it was sent before, and only the answer is lost. */
  readonly isDone: boolean

  constructor(status: number, detail: string, fields: { field: string; reason: string }[], isDone = false) {
    super(detail)
    this.status = status
    this.fields = fields
    this.isDone = isDone
  }

  /** What is wrong with one field, if anything. */
  of(field: string): string | undefined {
    return this.fields.find((error) => error.field === field)?.reason
  }
}

/** The data of an answer, or its problem thrown. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result
  try {
    result = await call
  } catch {
    throw new Problem(0, 'The server does not answer. What you typed is kept; try again in a moment.', [])
  }
  const { data, error, response } = result
  if (response.ok) return data as T
  const problem = (error ?? {}) as Partial<Schemas['Problem']>
  throw new Problem(
    response.status,
    problem.detail ?? `The server answered ${response.status}.`,
    problem.errors ?? [],
    problem.is_done ?? false,
  )
}
