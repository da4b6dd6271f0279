// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { expect, test } from 'vitest'
import { computed } from 'vue'
import { mounted, served } from '../common/mounted'
import { sorter } from './columns'
import { useTree } from './useTree'

const row = (asset: string, depth: number, parent: string | null, value: number, has_children = true) => ({
  kind: 'asset',
  asset,
  name: asset,
  depth,
  parent,
  has_children,
  figures: { cost_total: { value } },
})

test('What lies below an open row is asked for by the way to it, and stands below it in its order', async () => {
  const order = computed(() => sorter('cost_total', true))
  let tree!: ReturnType<typeof useTree>
  const { asked, stop } = served({
    'GET /api/v1/tally': ({ path }: { path: string }) => {
      const scope = new URL(path, 'http://x').searchParams.get('scope')
      return scope === 'U'
        ? { rows: [row('U', 0, null, 9), row('B', 1, 'U', 2, false), row('A', 1, 'U', 7, false)] }
        : { rows: [row('S', 0, null, 10), row('V', 1, 'S', 1), row('U', 1, 'S', 9)] }
    },
  })
  await mounted(
    {
      template: '<p />',
      setup: () => ({ tree: (tree = useTree({ period: '2025', scope: 'S' }, order)) }),
    },
    {},
    '/tally',
  )
  await flushPromises()
  const told = () => tree.lines.value.map((line) => `${line.depth}${line.row.asset}`)
  expect(told()).toEqual(['0S', '1U', '1V'])
  tree.toggle(tree.lines.value[1]!)
  await flushPromises()
  expect(told()).toEqual(['0S', '1U', '2A', '2B', '1V'])
  const last = new URL(asked.at(-1)!.path, 'http://x').searchParams
  expect([last.get('scope'), last.get('under'), last.get('period')]).toEqual(['U', 'S', '2025'])
  tree.toggle(tree.lines.value[0]!)
  expect(told()).toEqual(['0S'])
  stop()
})
