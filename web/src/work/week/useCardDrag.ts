import { onScopeDispose, ref } from 'vue'

/** A place on the board that a card can be dropped on: `crew|date`, or empty for off the board. */
export type Place = { crew?: string; date?: string }

/** Pixels after which a press is a drag. */
const FAR_ENOUGH = 6

const placeAt = (x: number, y: number) => {
  const under = document
    .elementsFromPoint(x, y)
    .find((one) => one instanceof HTMLElement && 'place' in one.dataset)
  return under instanceof HTMLElement ? under.dataset.place : undefined
}

/** As it stands on the board. */
export const placeKey = (place: Place) => (place.date ? `${place.crew ?? ''}|${place.date}` : '')

function placeOf(key: string): Place {
  const [crew, date] = key.split('|')
  return date ? { crew: crew || undefined, date } : {}
}

/** Drags a card by mouse, pen or finger from one place of the board to another. */
export function useCardDrag<Card>(drop: (card: Card, to: Place) => void) {
  /** The card on its way, where it is, and what it is over. */
  const dragged = ref<{ card: Card; x: number; y: number; over?: string }>()
  let begun: { card: Card; x: number; y: number; from: string } | undefined

  function move(event: PointerEvent) {
    if (!begun) return
    const { clientX: x, clientY: y } = event
    if (!dragged.value && Math.hypot(x - begun.x, y - begun.y) < FAR_ENOUGH) return
    event.preventDefault()
    dragged.value = { card: begun.card, x, y, over: placeAt(x, y) }
  }
  function end(event: PointerEvent) {
    const was = begun
    const isDragged = dragged.value !== undefined
    stop()
    if (!was || !isDragged || event.type === 'pointercancel') return
    // The press that ends a drag opens nothing; where no press follows, the next one does.
    const swallow = (click: Event) => {
      click.preventDefault()
      click.stopPropagation()
    }
    addEventListener('click', swallow, { capture: true, once: true })
    setTimeout(() => removeEventListener('click', swallow, true))
    const over = placeAt(event.clientX, event.clientY)
    if (over !== undefined && over !== was.from) drop(was.card, placeOf(over))
  }
  function escape(event: KeyboardEvent) {
    if (event.key === 'Escape' && dragged.value) {
      event.stopPropagation()
      stop()
    }
  }
  function stop() {
    begun = undefined
    dragged.value = undefined
    removeEventListener('pointermove', move)
    removeEventListener('pointerup', end)
    removeEventListener('pointercancel', end)
    removeEventListener('keydown', escape, true)
  }
  /** A press on a card that lies in a place. */
  function begin(event: PointerEvent, card: Card, from: string) {
    if (event.button !== 0 || (event.target as HTMLElement).closest('button, select, form')) return
    begun = { card, x: event.clientX, y: event.clientY, from }
    addEventListener('pointermove', move)
    addEventListener('pointerup', end)
    addEventListener('pointercancel', end)
    addEventListener('keydown', escape, true)
  }
  onScopeDispose(stop)
  return { dragged, begin }
}
