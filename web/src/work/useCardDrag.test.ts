// @vitest-environment happy-dom
import { afterEach, expect, test, vi } from 'vitest'
import { effectScope } from 'vue'
import { type Place, placeKey, placeOf } from './week/place'
import { useCardDrag } from './useCardDrag'

const card = { number: 7 }
let dropped: { card: unknown; to: Place }[] = []
let scope = effectScope()

/** A board of two days beside a place off it: what lies at an x is the place of that name. */
function board() {
  const places = ['red|2026-03-02', 'red|2026-03-03', ''].map((place) => {
    const element = document.createElement('div')
    element.dataset.place = place
    return element
  })
  document.elementsFromPoint = (x: number) => [places[Math.floor(x / 100)] ?? document.body]
  dropped = []
  scope = effectScope()
  return scope.run(() => useCardDrag((card, to) => dropped.push({ card, to: placeOf(to) })))!
}

const at = (type: string, x: number, y = 0) => new PointerEvent(type, { clientX: x, clientY: y, button: 0 })
/** Pressed on something that is no button of the card. */
function press(drag: ReturnType<typeof board>, x: number, from: string) {
  const event = at('pointerdown', x)
  Object.defineProperty(event, 'target', { value: document.createElement('p') })
  drag.begin(event, card, from)
}

afterEach(() => {
  scope.stop()
  vi.restoreAllMocks()
})

test('A card goes from one day to another, and off the board', () => {
  const drag = board()
  press(drag, 10, 'red|2026-03-02')
  dispatchEvent(at('pointermove', 150))
  expect(drag.dragged.value?.over).toBe('red|2026-03-03')
  dispatchEvent(at('pointerup', 150))
  press(drag, 150, 'red|2026-03-03')
  dispatchEvent(at('pointermove', 250))
  dispatchEvent(at('pointerup', 250))
  expect(dropped).toEqual([
    { card, to: { crew: 'red', date: '2026-03-03' } },
    { card, to: {} },
  ])
  expect(drag.dragged.value).toBeUndefined()
})

test('A press that hardly moves, one that ends where it began, and one that is broken off drop nothing', () => {
  const drag = board()
  press(drag, 10, 'red|2026-03-02')
  dispatchEvent(at('pointermove', 13))
  expect(drag.dragged.value).toBeUndefined()
  dispatchEvent(at('pointerup', 13))
  press(drag, 10, 'red|2026-03-02')
  dispatchEvent(at('pointermove', 60))
  dispatchEvent(at('pointerup', 60))
  press(drag, 10, 'red|2026-03-02')
  dispatchEvent(at('pointermove', 150))
  dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
  dispatchEvent(at('pointerup', 150))
  press(drag, 10, 'red|2026-03-02')
  dispatchEvent(at('pointermove', 150))
  dispatchEvent(at('pointercancel', 150))
  expect(dropped).toEqual([])
})

test('A place without a crew is one, and no date is off the board', () => {
  expect(placeKey({ date: '2026-03-02' })).toBe('|2026-03-02')
  expect(placeKey({ crew: 'red' })).toBe('')
})
