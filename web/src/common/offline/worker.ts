import { ref } from 'vue'

/** Whether the application opens without a network: not asked yet, yes, or why not. */
export const opensOffline = ref<'unasked' | 'yes' | { not: string }>('unasked')

/** Has the browser keep the application. Only over a connection that the browser trusts. */
export async function keepApplication() {
  if (opensOffline.value !== 'unasked') return
  if (!window.isSecureContext || !('serviceWorker' in navigator)) {
    opensOffline.value = { not: 'the browser does not trust the connection to this server' }
    return
  }
  try {
    await navigator.serviceWorker.register('/sw.js')
    await navigator.serviceWorker.ready
    opensOffline.value = 'yes'
  } catch {
    // A certificate that was only waved through is no reason for a browser to keep anything.
    opensOffline.value = { not: 'the browser does not trust the certificate of this server' }
  }
}
