import { shallowRef } from 'vue'

/** Something that can be taken back for a while. */
export interface Undo {
  /** What was done. */
  says: string
  /** Takes it back. */
  take: () => Promise<unknown>
  /** The offer stands as long as one stays at paths that begin like this. */
  within: string
}

/** The last of them. */
export const lastChange = shallowRef<Undo>()
