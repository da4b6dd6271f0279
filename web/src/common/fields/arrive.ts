import type { Directive } from 'vue'

const FIELDS = 'input:not([type=hidden]):not(:disabled), select:not(:disabled), textarea:not(:disabled)'

/** What had the focus before, to have it again. */
const before = new WeakMap<HTMLElement, Element | null>()

/**
 * On what is opened beside what one was doing: the focus comes to its first field, or to itself, and goes back to where it
 * was when that is gone.
 */
export const arrive: Directive<HTMLElement> = {
  mounted(element) {
    before.set(element, document.activeElement)
    const field = element.matches('form') ? element.querySelector<HTMLElement>(FIELDS) : undefined
    if (!field) element.tabIndex = -1
    ;(field ?? element).focus({ preventScroll: !field })
  },
  unmounted(element) {
    const was = before.get(element)
    // Whoever went on to something else stays there.
    const isLost = !document.activeElement || document.activeElement === document.body
    if (isLost && was instanceof HTMLElement && was.isConnected) was.focus()
  },
}
