import { onScopeDispose, reactive, ref } from 'vue'
import { Problem } from '../api'
import { keepFile, sendFile } from '../offline/files'

/** A photo or paper that the server has, or that waits in the browser. */
export interface SentFile {
  file: string
  name: string
  media_type: string
  /** What to show of a photo as long as this page is open. */
  shown?: string
}

/** One on its way, or refused. */
export interface Sending {
  from: File
  shown?: string
  wrong?: string
}

/** Has the server keep a file, or without a network the browser, until what names it goes out. */
async function sent(file: File): Promise<{ file: string; media_type: string }> {
  try {
    return await sendFile(file)
  } catch (problem) {
    if (!(problem instanceof Problem) || problem.status !== 0) throw problem
    return { file: await keepFile(file), media_type: file.type }
  }
}

/** Sends files one after the other, and hands on each that the server has. What is refused stands until it is left out. */
export function useSending(then: (sent: SentFile) => unknown) {
  const under = ref<Sending[]>([])
  const shown: string[] = []
  onScopeDispose(() => shown.forEach((url) => URL.revokeObjectURL(url)))
  const leave = (one: Sending) => (under.value = under.value.filter((other) => other !== one))
  async function send(one: Sending) {
    one.wrong = undefined
    try {
      const { file, media_type } = await sent(one.from)
      await then({ file, media_type, name: one.from.name, shown: one.shown })
      leave(one)
    } catch (error) {
      one.wrong = (error instanceof Problem && error.of('file')) || (error as Error).message
    }
  }
  async function give(files: FileList | null) {
    const begun = [...(files ?? [])].map((from) => {
      const url = from.type.startsWith('image/') ? URL.createObjectURL(from) : undefined
      if (url) shown.push(url)
      return reactive<Sending>({ from, shown: url })
    })
    under.value.push(...begun)
    for (const one of begun) await send(one)
  }
  return { under, give, again: send, leave }
}
