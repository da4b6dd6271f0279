import { computed } from 'vue'
import { useAddress } from './useAddress'

/** What figures can be held to, as the address and the server call it. Values have `|` between. */
export const HELD = ['work_kind', 'crew', 'department', 'rank', 'class', 'criticality', 'tag'] as const
export type HeldTo = (typeof HELD)[number]

/** What all looks at figures share, in the address: scope, period, what it is compared with, as of when, held to what. */
export function useTally() {
  const { scope, period, read, change } = useAddress()
  const basis = computed(() => (read('basis') === 'as_is' ? ('as_is' as const) : ('as_was' as const)))
  /** Each condition that is set. */
  const held = computed(() =>
    Object.fromEntries(HELD.flatMap((key) => (read(key) ? [[key, read(key)]] : []))),
  )
  const past = computed(() => ({
    ...(read('as_of') && { as_of: read('as_of') }),
    ...(read('known_at') && { known_at: read('known_at') }),
  }))
  const asked = computed(() => ({
    scope: scope.value || undefined,
    period: period.value,
    basis: basis.value,
    ...(read('against') && { against: read('against') }),
    ...past.value,
    ...held.value,
  }))
  /** The same conditions as a list's figure takes them. */
  const heldTo = computed(() =>
    Object.fromEntries(
      Object.entries(held.value).map(([key, text]) => {
        const values = String(text).split('|')
        return [key, key === 'rank' ? values.map(Number) : values]
      }),
    ),
  )
  /** The same conditions as filters of a list of work. */
  const filters = computed(() =>
    Object.entries(held.value).map(([key, text]) => ({
      column: key === 'tag' ? 'tags' : key,
      is: text === '|' ? [''] : String(text).split('|'),
    })),
  )
  /** What a link to another look at figures takes along. */
  const along = computed(() => ({
    ...(read('basis') && { basis: read('basis') }),
    ...(read('against') && { against: read('against') }),
    ...past.value,
    ...held.value,
  }))
  return { scope, period, basis, held, heldTo, filters, past, asked, along, read, change }
}
