import { useLocalStorage } from '@vueuse/core'

/**
 * Whether keys without Ctrl or Alt do something: who speaks to the machine, or rests a hand on it, can switch them off
 * (WCAG 2.1.4).
 */
export const letterKeys = useLocalStorage('fair-tally-letter-keys', true)

/** Whether a key was meant for a field, or for the system. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target
  return (
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    target instanceof HTMLInputElement ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLElement && target.isContentEditable)
  )
}

/** Whether a key is a command of the screen. */
export function isCommand(event: KeyboardEvent): boolean {
  return letterKeys.value && !isTyping(event)
}
