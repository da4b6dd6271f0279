import { type UseStore, createStore, del, entries, get, set, update } from 'idb-keyval'

/**
 * What is kept in the browser over a lost network and a closed page. Where a browser keeps nothing it lasts as long as the page.
 */
const inMemory = new Map<string, unknown>()
let store: UseStore | undefined
const opened = () =>
  typeof indexedDB === 'undefined' ? undefined : (store ??= createStore('fair-tally', 'kept'))

/** Plain data, or a file: what a page watches can't be kept as it is. */
const plain = <T>(value: T): T => (value instanceof Blob ? value : (JSON.parse(JSON.stringify(value)) as T))

export async function read<T>(name: string): Promise<T | undefined> {
  const at = opened()
  return at ? get<T>(name, at) : (inMemory.get(name) as T | undefined)
}

export async function write(name: string, value: unknown) {
  const at = opened()
  if (at) await set(name, plain(value), at)
  else inMemory.set(name, plain(value))
}

/** Changes something as nobody else does at the same time, in whatever tab. */
export async function change<T>(name: string, how: (before: T | undefined) => T): Promise<T> {
  let after!: T
  const changed = (before: T | undefined) => (after = plain(how(before)))
  const at = opened()
  if (at) await update<T>(name, changed, at)
  else inMemory.set(name, changed(inMemory.get(name) as T | undefined))
  return after
}

/** Forgets all whose name begins so and does not pass. */
export async function forget(beginning: string, stays: (name: string) => boolean = () => false) {
  const at = opened()
  const names = at ? (await entries<string, unknown>(at)).map(([name]) => name) : [...inMemory.keys()]
  for (const name of names.filter((one) => one.startsWith(beginning) && !stays(one))) {
    if (at) await del(name, at)
    else inMemory.delete(name)
  }
}
