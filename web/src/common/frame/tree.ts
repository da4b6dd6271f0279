import { type Ref, computed, ref } from 'vue'
import type { AssetNode } from '../api'

/** A node in sight, where it stands. */
export interface Row {
  node: AssetNode
  depth: number
  open: boolean
  /** Among so many below the same one, from 1. */
  place: number
  among: number
}

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
    const below = all.get(parent)
    if (below) below.push(node)
    else all.set(parent, [node])
  }
  return all
}

/** All nodes in sight, from top to bottom. */
export function inSight(
  children: Map<string, AssetNode[]>,
  isOpen: (node: AssetNode, depth: number) => boolean,
): Row[] {
  const rows: Row[] = []
  const add = (nodes: AssetNode[], depth: number) =>
    nodes.forEach((node, index) => {
      const open = isOpen(node, depth)
      rows.push({ node, depth, open, place: index + 1, among: nodes.length })
      if (open) add(children.get(node.code) ?? [], depth + 1)
    })
  add(children.get('') ?? [], 0)
  return rows
}
