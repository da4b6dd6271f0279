import { shallowRef } from 'vue'
import type { Undo } from './registry'

/** The last change that can be taken back. */
export const lastChange = shallowRef<Undo>()
