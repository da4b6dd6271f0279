import { expect, test } from 'vitest'
import { FROM_ROOT, wayBelow } from './way'

test('A way names the rows from the outermost, and whether that one is a root', () => {
  expect(wayBelow('', 'B')).toBe('B')
  expect(wayBelow('B', 'U')).toBe('B/U')
  expect(wayBelow(FROM_ROOT, 'S')).toBe('/S')
  expect(wayBelow('/S', 'B')).toBe('/S/B')
})
