import type { InjectionKey, Ref } from 'vue'

/** Code of the one node of the tree that Tab leads to. */
export const REACHED: InjectionKey<Ref<string>> = Symbol('reached')
