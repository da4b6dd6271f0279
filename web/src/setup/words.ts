import type { Schemas } from '../common/api'

/** How the visits of a round are walked. */
export const walkWords: Record<Schemas['Walk'], string> = {
  in_order: 'in the order listed',
  any_order: 'as it suits',
}
