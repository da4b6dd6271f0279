/** Photos and drawings that are taken along: the service worker hands them out where there is no network. */

/** The worker names it, too. */
const PICTURES = 'pictures'

/** Keeps those pictures in the browser, and no others. */
export async function keepPictures(urls: string[]) {
  if (!('caches' in globalThis)) return
  const cache = await caches.open(PICTURES)
  const kept = await cache.keys()
  const has = new Set<string>()
  for (const request of kept) {
    const { pathname, search } = new URL(request.url)
    if (urls.includes(pathname + search)) has.add(pathname + search)
    else await cache.delete(request)
  }
  // One that can't be had now is tried again with the next look.
  for (const url of urls) if (!has.has(url)) await cache.add(url).catch(() => undefined)
}

export const forgetPictures = async () => {
  if ('caches' in globalThis) await caches.delete(PICTURES)
}
