import { onScopeDispose, ref } from 'vue'

/** Pixels after which a press is a drag. */
const FAR_ENOUGH = 6

const placeAt = (x: number, y: number) => {
  const under = document
    .elementsFromPoint(x, y)
    .find((one) => one instanceof HTMLElement && 'place' in one.dataset)
  return under instanceof HTMLElement ? under.dataset.place : undefined
}

/**
 * Drags a card by mouse, pen or finger from one place to another. A place is an element with `data-place`, by that name.
 */
export function useCardDrag<Card>(drop: (card: Card, to: string) => void) {
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
    if (over !== undefined && over !== was.from) drop(was.card, over)
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
    // What can be pressed within a card does that; a card may be a button itself.
    const pressed = (event.target as HTMLElement).closest('button, select, form')
    if (event.button !== 0 || (pressed && pressed !== event.currentTarget)) return
    begun = { card, x: event.clientX, y: event.clientY, from }
    addEventListener('pointermove', move)
    addEventListener('pointerup', end)
    addEventListener('pointercancel', end)
    addEventListener('keydown', escape, true)
  }
  onScopeDispose(stop)
  return { dragged, begin }
}
