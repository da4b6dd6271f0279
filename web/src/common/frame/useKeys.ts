import { onKeyStroke } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAddress } from '../useAddress'
import { isCommand, isTyping } from './keys'
import { workspaces } from './workspaces'

/** How long after `g` the letter of a workspace may come, in milliseconds. */
const PATIENCE = 1_200

/** Whether the sheet of keys is open. */
export const keySheet = ref(false)

/** The keys that work on every screen. */
export function useKeys() {
  const router = useRouter()
  const { to } = useAddress()
  let begun = Number.NEGATIVE_INFINITY

  onKeyStroke(true, (event) => {
    if (event.key === 'Escape' && !isTyping(event)) return close()
    if (!isCommand(event)) return
    const goes = event.timeStamp - begun < PATIENCE
    begun = event.key === 'g' ? event.timeStamp : Number.NEGATIVE_INFINITY
    if (goes) {
      const path = event.key === 'h' ? '/' : workspaces.find((one) => one.key === event.key)?.path
      if (path) void router.push(to(path))
    } else if (event.key === '?') {
      keySheet.value = !keySheet.value
    } else if (event.key === 'j' || event.key === 'k') {
      step(event.key === 'j' ? 1 : -1)
    }
  })
}

/** Closes what is open on the screen; what lies above it closes first, by itself. */
function close() {
  const above = document.querySelector('aside.why, .el-overlay-dialog')
  if (!above) document.querySelector<HTMLElement>('[data-close]')?.click()
}

/** Moves the focus to the next or the previous row's link of the screen's list. */
function step(by: number) {
  const rows = [...document.querySelectorAll<HTMLElement>('#screen [data-row]')]
  const now = rows.indexOf(document.activeElement as HTMLElement)
  const next = now < 0 ? (by > 0 ? 0 : rows.length - 1) : now + by
  const row = rows[Math.min(Math.max(next, 0), rows.length - 1)]
  row?.focus()
  row?.scrollIntoView({ block: 'nearest' })
}
