import { type InjectionKey, type Ref, computed, ref } from 'vue'
import type { AssetNode } from '../api'

/** What the branches of the tree share. */
export interface Tree {
  /** Code of the one node that Tab leads to. */
  reached: Ref<string>
  isOpen: (node: AssetNode, depth: number) => boolean
  /** Opens a node or closes it. */
  turn: (node: AssetNode, open: boolean) => void
  /** What stands right below a node, as far as it was asked for. */
  below: (node: AssetNode) => AssetNode[]
}
export const TREE: InjectionKey<Tree> = Symbol('tree')

/** Levels that stand open on a first visit. */
export const FIRST_OPEN = 2

/** Nodes that are kept open at the most; the server takes no more at once. */
const MOST_OPEN = 300

/** Which nodes stand open: the first levels, what lies above the scope, and what was opened by hand. */
export function useOpen(above: Ref<string[]>) {
  const turned = ref(new Map<string, boolean>())
  const isOpen = ({ code }: AssetNode, depth: number) =>
    turned.value.get(code) ?? (depth < FIRST_OPEN || above.value.includes(code))
  function turn({ code }: AssetNode, open: boolean) {
    turned.value.delete(code)
    turned.value.set(code, open)
  }
  /** Codes that stand open, whatever their level. */
  const opened = computed(() => {
    const byHand = [...turned.value].filter(([, open]) => open).map(([code]) => code)
    const all = [...new Set([...above.value.filter((code) => turned.value.get(code) !== false), ...byHand])]
    return all.slice(-MOST_OPEN).sort()
  })
  return { isOpen, turn, opened }
}

/** Nodes by the code of what they stand below; roots by an empty one. */
export function byParent(nodes: AssetNode[]): Map<string, AssetNode[]> {
  const all = new Map<string, AssetNode[]>()
  for (const node of nodes) {
    const parent = node.parent ?? ''
    all.set(parent, [...(all.get(parent) ?? []), node])
  }
  return all
}
