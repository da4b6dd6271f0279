import { computed } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

/** What a new visit begins with. */
export const FIRST_PERIOD = 'last_12_months'

/**
 * What the address says: scope, period and every filter of a screen. A link shows exactly what its sender saw.
 */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  const read = (key: string) => {
    const value = route.query[key]
    return typeof value === 'string' ? value : ''
  }
  /** Code of the asset that every screen looks at; empty for all. */
  const scope = computed(() => read('scope'))
  const period = computed(() => read('period') || FIRST_PERIOD)

  /** Changes parts of the address; an empty value takes a part away. What replaces leaves no step to go back to. */
  function change(parts: Record<string, string>, { replace = false } = {}) {
    const query: LocationQueryRaw = { ...route.query, ...parts }
    for (const [key, value] of Object.entries(query)) if (!value) delete query[key]
    // A stretch is one of its period.
    if ('period' in parts) delete query.view
    return router.push({ path: route.path, query, replace })
  }

  /** A link to another path of the same screen: everything else stays. */
  const stay = (path: string) => ({ path, query: route.query })

  /** A link to another screen that keeps scope and period. */
  function to(path: string, parts: Record<string, string> = {}) {
    const query: Record<string, string> = {}
    if (scope.value) query.scope = scope.value
    if (read('period')) query.period = period.value
    return { path, query: { ...query, ...parts } }
  }

  return { scope, period, read, change, stay, to }
}
