import {
  type PrecacheEntry,
  cleanupOutdatedCaches,
  createHandlerBoundToURL,
  precacheAndRoute,
} from 'workbox-precaching'
import { clientsClaim } from 'workbox-core'
import { NavigationRoute, registerRoute } from 'workbox-routing'

/** Keeps the application in the browser, as far as whoever does the work needs it: it opens from there, with or without a network. */
declare const __KEPT_FILES__: PrecacheEntry[]
declare const self: {
  skipWaiting(): Promise<void>
  addEventListener(type: 'install', then: () => void): void
}

// A newer version takes over at once: names of files hold what is in them.
self.addEventListener('install', () => void self.skipWaiting())
clientsClaim()
cleanupOutdatedCaches()
precacheAndRoute(__KEPT_FILES__)
// Pictures that were taken along (common/offline/pictures.ts) stand in for the server, the small one for the large.
registerRoute(
  ({ url }) => /^\/api\/v1\/.*\/(attachments|pictures)\//.test(url.pathname),
  async ({ request }) => {
    try {
      return await fetch(request)
    } catch (lost) {
      const kept = await caches.match(request, {
        cacheName: 'pictures',
        ignoreSearch: true,
        ignoreVary: true,
      })
      if (!kept) throw lost
      return kept
    }
  },
)
registerRoute(
  new NavigationRoute(createHandlerBoundToURL('/index.html'), {
    allowlist: [/^\/(shift|work)(\/|$|\?)/],
  }),
)
