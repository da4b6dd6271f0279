import { computed, onScopeDispose, ref, watch } from 'vue'
import type { Schemas } from '../../common/api'
import { command } from '../../common/change/registry'
import { useCarryOut } from '../../common/change/useChange'
import { answerCheck } from '../changes'
import { type AnswerValue, type Answers, lookedUp } from '../../common/checks/conditions'
import { clockRuns, now } from '../../common/installation'
import { isCut } from '../../common/offline/network'

/** Answers that the server has not heard of yet, with when they were given; nothing for one that is cleared. */
type Unsent = Record<string, { value: AnswerValue | null; at?: string }>

const kept = (id: number) => `check-${id}`

function read(id: number): Unsent {
  try {
    return JSON.parse(localStorage.getItem(kept(id)) ?? '{}') as Unsent
  } catch {
    return {}
  }
}

/** As it is sent. */
export function bodyOf(unsent: Unsent): Schemas['Answering'] {
  const entries = Object.entries(unsent)
  return {
    answers: entries.flatMap(([question, { value, at }]) => (value ? [{ question, value, at }] : [])),
    cleared: entries.flatMap(([question, { value }]) => (value ? [] : [question])),
  }
}

/** How long nobody types before what was answered goes out, and before it is tried again. */
const PAUSE = 700
const AGAIN = 5_000

/**
 * The answers on a check sheet: shown at once, kept in the browser until the server has them, sent bit by bit. What could not
 * be sent goes out when there is a network again, also after the page was closed.
 */
export function useAnswers(view: () => Schemas['CheckView'] | undefined) {
  const carry = useCarryOut()
  const unsent = ref<Unsent>({})
  const sent = ref<Unsent>({})
  const isSending = ref(false)
  const error = ref<unknown>()
  let waiting: ReturnType<typeof setTimeout> | undefined
  const later = (pause: number) => {
    clearTimeout(waiting)
    waiting = setTimeout(() => void flush(), pause)
  }
  const remember = () => {
    const id = view()?.id
    if (id === undefined) return
    if (Object.keys(unsent.value).length) localStorage.setItem(kept(id), JSON.stringify(unsent.value))
    else localStorage.removeItem(kept(id))
  }
  watch(
    () => view()?.id,
    (id) => {
      unsent.value = id === undefined ? {} : read(id)
      sent.value = {}
      if (Object.keys(unsent.value).length) later(PAUSE)
    },
    { immediate: true },
  )
  onScopeDispose(() => clearTimeout(waiting))

  const answers = computed<Answers>(() => {
    const given: Answers = {}
    for (const { question, value } of view()?.answers ?? []) given[question] = value
    for (const [question, { value }] of Object.entries({ ...sent.value, ...unsent.value }))
      given[question] = value ?? undefined
    return given
  })
  const found = computed(() => lookedUp(view()?.questions ?? [], answers.value))

  function give(question: string, value: AnswerValue | undefined) {
    // A clock that stands says what is now by itself.
    const at = clockRuns.value || isCut.value ? new Date(now.value).toISOString() : undefined
    unsent.value = { ...unsent.value, [question]: { value: value ?? null, at } }
    error.value = undefined
    remember()
    later(PAUSE)
  }

  async function flush() {
    const shown = view()
    const batch = unsent.value
    if (!shown || shown.finished_at || isSending.value || !Object.keys(batch).length) return
    isSending.value = true
    try {
      await carry(command(answerCheck, { number: shown.work_order, id: shown.id, body: bodyOf(batch) }))
      settled(batch)
    } catch (wrong) {
      error.value = wrong
      // Without a network it is tried again; what is refused waits for another answer.
      if ((wrong as { status?: number }).status === 0) later(AGAIN)
    } finally {
      isSending.value = false
      if (!error.value && Object.keys(unsent.value).length) later(PAUSE)
    }
  }

  /** The server has those; what was answered anew meanwhile still waits. */
  function settled(batch: Unsent) {
    sent.value = { ...sent.value, ...batch }
    unsent.value = Object.fromEntries(
      Object.entries(unsent.value).filter(([question, value]) => batch[question] !== value),
    )
    error.value = undefined
    remember()
  }

  return { answers, found, give, unsent, settled, error, isSending }
}
