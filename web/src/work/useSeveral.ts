import { computed, reactive } from 'vue'
import type { Schemas, WorkState } from '../common/api'

/** What can be done to several orders at once. */
export const deeds = {
  state: 'Move to',
  crew: 'Give to crew',
  assignee: 'Assign to',
  rank: 'Set rank',
  schedule: 'Schedule',
} as const
export type Deed = keyof typeof deeds

/** Nobody, no crew, no date: what is taken away. */
export const NONE = 'none'

type Asked = Omit<Schemas['Several'], 'orders'>
type Change = Schemas['WorkChange']

/** What is typed, of whatever is to be done. */
interface Given {
  deed: Deed
  state: WorkState
  waiting_for: Schemas['WaitingFor']
  expected_until: string
  note: string
  /** Codes; `NONE` for no more. */
  crew: string
  assignee: string
  rank: number
  start: string
  end: string
  unscheduled: boolean
}

/** What is typed for several orders, and what is asked of the server once it is whole. */
export function useSeveral() {
  const given = reactive<Given>({
    deed: 'state',
    state: 'ready',
    waiting_for: 'parts',
    expected_until: '',
    note: '',
    crew: '',
    assignee: '',
    rank: 3,
    start: '',
    end: '',
    unscheduled: false,
  })
  const to = (): Schemas['StateMove'] | undefined => {
    if (given.state === 'dropped' && !given.note.trim()) return undefined
    const waits = given.state === 'waiting'
    return {
      to: given.state,
      note: given.note.trim() || undefined,
      waiting_for: waits ? given.waiting_for : undefined,
      expected_until: (waits && given.expected_until) || undefined,
    }
  }
  const change = (): Change | undefined => {
    switch (given.deed) {
      case 'crew':
        if (!given.crew) return undefined
        return given.crew === NONE ? { clear: ['crew'] } : { crew: given.crew }
      case 'assignee':
        if (!given.assignee) return undefined
        return given.assignee === NONE ? { clear: ['assignee'] } : { assignee: given.assignee }
      case 'rank':
        return { risk_rank: given.rank }
      case 'schedule':
        if (given.unscheduled) return { clear: ['schedule'] }
        return given.start
          ? { scheduled_start: given.start, scheduled_end: given.end || undefined }
          : undefined
      case 'state':
        return undefined
    }
  }
  /** Nothing while something is missing. */
  const asked = computed<Asked | undefined>(() => {
    if (given.deed === 'state') {
      const move = to()
      return move && { to: move }
    }
    const changed = change()
    return changed && { change: changed }
  })
  return { given, asked }
}
