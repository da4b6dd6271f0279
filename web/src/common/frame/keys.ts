/** Whether a key was meant for a field. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target
  return (
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    target instanceof HTMLInputElement ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement
  )
}
