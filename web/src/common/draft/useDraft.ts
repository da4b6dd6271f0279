import { useEventListener } from '@vueuse/core'
import { type Ref, computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'

interface Given<Theirs, Mine> {
  /** As the server has it. */
  theirs: () => Theirs | undefined
  /** What it is one of: another one has a draft of its own. */
  of: (theirs: Theirs) => string
  /** The number of its last change. */
  version: (theirs: Theirs) => number
  draftOf: (theirs: Theirs) => Mine
  same: (mine: Mine, theirs: Theirs) => boolean
  /** As it stands after "changes to", when somebody is about to leave. */
  name: () => string
}

/** The dialog is loaded when somebody is asked. */
const ask = async (name: string) => (await import('../ask')).askToLeave(name)

/**
 * Something that is edited as a whole. What a colleague saves meanwhile shows at once where nothing was typed, and beside the
 * draft where something was; the draft is never overwritten, and nobody leaves it without being asked.
 */
export function useDraft<Theirs, Mine>(
  given: Given<Theirs, Mine>,
  leave: (name: string) => Promise<boolean> = ask,
) {
  const draft = ref() as Ref<Mine>
  /** What the draft began from. */
  const base = shallowRef<Theirs>()
  const changed = computed(() => base.value !== undefined && !given.same(draft.value, base.value))
  /** What a colleague saved since the draft was begun. */
  const newer = computed(() => {
    const now = given.theirs()
    if (now === undefined || base.value === undefined) return undefined
    return given.version(now) === given.version(base.value) ? undefined : now
  })

  /** Begins anew from that. */
  function take(now: Theirs | undefined) {
    if (now === undefined) return
    base.value = now
    draft.value = given.draftOf(now)
  }
  let isSaved = false
  /** Reads again what was saved here: that is where the next draft begins. */
  async function afterSave(readAgain: () => Promise<unknown>) {
    isSaved = true
    try {
      await readAgain()
    } finally {
      isSaved = false
    }
  }
  watch(
    given.theirs,
    (now) => {
      if (now === undefined) return
      const isAnother = base.value === undefined || given.of(now) !== given.of(base.value)
      // What was saved here comes back as the server keeps it.
      if (isAnother || isSaved || !changed.value || given.same(draft.value, now)) take(now)
    },
    { immediate: true },
  )

  /** Shows what is saved, and forgets the draft. */
  const takeTheirs = () => take(given.theirs())
  /** Goes on with the draft, knowing what is saved. */
  function keepMine() {
    base.value = given.theirs()
  }
  /** The change that a write of the draft is based on. */
  const basedOn = () => (base.value === undefined ? undefined : given.version(base.value))

  const router = useRouter()
  onScopeDispose(
    router.beforeEach(async (to, from) => {
      if (to.path === from.path || !changed.value) return true
      return leave(given.name())
    }),
  )
  useEventListener(window, 'beforeunload', (event) => {
    if (changed.value) event.preventDefault()
  })

  return { draft, changed, newer, afterSave, take, takeTheirs, keepMine, basedOn }
}
