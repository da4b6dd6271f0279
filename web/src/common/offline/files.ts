import { Problem, type Schemas, answer, api } from '../api'
import { forget, read, write } from './kept'

/** Photos and papers that wait for the network: what names them goes out once the server has them. */

const MARK = 'waits-'
const NAMES = /"(waits-\d+-[0-9a-f-]{36})"/g
const FILE = 'file '
const SENT = 'sent '
/** How long one is kept that nobody could send, and what became of one that was, in milliseconds. */
const KEPT_FOR = 30 * 86_400_000

/** Whether a name stands for a file that the server had not when it was chosen. */
export const isWaiting = (name: string) => name.startsWith(MARK)

/** Has the server keep a file. */
export const sendFile = (file: Blob) =>
  answer<Schemas['StoredFile']>(
    api.POST('/api/v1/files', {
      // The description has no type for plain bytes.
      body: file as unknown as number[],
      bodySerializer: (body: unknown) => body as BodyInit,
      headers: { 'content-type': file.type },
    }),
  )

/** Keeps a file in the browser; the name that stands for it. */
export async function keepFile(file: Blob): Promise<string> {
  const name = `${MARK}${Date.now()}-${crypto.randomUUID()}`
  await write(FILE + name, file)
  return name
}

/** The name that the server gives a file that waited; it is sent where it has none yet. */
async function nameAtServer(name: string): Promise<string> {
  const known = await read<string>(SENT + name)
  if (known) return known
  const file = await read<Blob>(FILE + name)
  if (!file) throw new Problem(410, 'The photo is not in this browser any more.', [])
  const { file: there } = await sendFile(file)
  await write(SENT + name, there)
  await forget(FILE + name)
  return there
}

/** What is given, with the server's names of all files in it. */
export async function withFilesSent<T>(given: T): Promise<T> {
  const text = JSON.stringify(given) ?? ''
  const names = new Set([...text.matchAll(NAMES)].map(([, name]) => name!))
  if (!names.size) return given
  const known = new Map<string, string>()
  for (const name of names) known.set(name, await nameAtServer(name))
  return JSON.parse(text.replace(NAMES, (_, name: string) => JSON.stringify(known.get(name)))) as T
}

/** What a name stands for: the file in this browser, or the name that the server gave it since. */
export const whatWaits = async (name: string): Promise<Blob | string | undefined> =>
  (await read<string>(SENT + name)) ?? (await read<Blob>(FILE + name))

/** Forgets what was kept longer than anybody works without a network. */
export async function forgetOldFiles() {
  const since = Date.now() - KEPT_FOR
  for (const kind of [FILE, SENT]) await forget(kind + MARK, (name) => Number(name.split('-')[1]) > since)
}
