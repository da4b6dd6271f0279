import { expect, test } from 'vitest'
import { ref } from 'vue'
import type { AssetNode } from '../api'
import { byParent, inSight, useOpen } from './tree'

const node = (code: string, parent?: string) => ({ code, parent }) as AssetNode

test('The first levels stand open, what lies above the scope, and what was opened by hand', () => {
  const above = ref<string[]>([])
  const { isOpen, turn, opened } = useOpen(above)
  expect([isOpen(node('S'), 0), isOpen(node('U'), 1), isOpen(node('E'), 2)]).toEqual([true, true, false])
  expect(opened.value).toEqual([])
  turn(node('E'), true)
  above.value = ['S', 'X']
  expect([isOpen(node('E'), 2), isOpen(node('X'), 3)]).toEqual([true, true])
  expect(opened.value).toEqual(['E', 'S', 'X'])
  turn(node('X'), false)
  turn(node('S'), false)
  expect([isOpen(node('X'), 3), isOpen(node('S'), 0)]).toEqual([false, false])
  expect(opened.value).toEqual(['E'])
})

test('No more are asked for than the server takes, the latest first', () => {
  const { turn, opened } = useOpen(ref([]))
  for (let n = 0; n < 400; n++) turn(node(`N${n}`), true)
  expect(opened.value.length).toBe(300)
  expect(opened.value).toContain('N399')
})

test('Nodes stand below what they stand below', () => {
  const all = byParent([node('S'), node('A', 'S'), node('B', 'S'), node('C', 'A')])
  expect([...all].map(([parent, below]) => [parent, below.map((one) => one.code)])).toEqual([
    ['', ['S']],
    ['S', ['A', 'B']],
    ['A', ['C']],
  ])
})

test('What stands open is in sight from top to bottom, each in its place', () => {
  const all = byParent([node('S'), node('A', 'S'), node('B', 'S'), node('C', 'A'), node('T')])
  const rows = inSight(all, ({ code }) => code === 'S')
  expect(rows.map(({ node, depth, open, place, among }) => [node.code, depth, open, place, among])).toEqual([
    ['S', 0, true, 1, 2],
    ['A', 1, false, 1, 2],
    ['B', 1, false, 2, 2],
    ['T', 0, false, 2, 2],
  ])
})
