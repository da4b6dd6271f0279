import { nextTick, ref } from 'vue'

/** Lines that change places: by a press, by the keyboard, by drag. What was moved keeps the focus. */
export function usePlaces<Line>(lines: () => Line[], lineAt: (place: number) => string) {
  async function move(place: number, by: number) {
    const all = lines()
    const [moved] = all.splice(place, 1)
    if (moved !== undefined) all.splice(Math.max(place + by, 0), 0, moved)
    await nextTick()
    document.querySelector<HTMLElement>(`${lineAt(place + by)} input`)?.focus()
  }
  const dragged = ref<number>()
  function drop(place: number) {
    if (dragged.value !== undefined && dragged.value !== place)
      void move(dragged.value, place - dragged.value)
    dragged.value = undefined
  }
  return { move, dragged, drop }
}
