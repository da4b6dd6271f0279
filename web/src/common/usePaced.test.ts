import { nextTick, ref } from 'vue'
import { expect, it } from 'vitest'
import { usePaced } from './usePaced'

it('asks at once, then only when the answer is there, and ends with what was wanted last', async () => {
  const [wanted, underWay] = [ref(1), ref(false)]
  const { asked, follow } = usePaced(wanted)
  follow(underWay)
  const after = async (change: () => void) => {
    change()
    await nextTick()
    return asked.value
  }
  expect(asked.value).toBe(1)
  expect(await after(() => (wanted.value = 2))).toBe(2)
  underWay.value = true
  expect(await after(() => (wanted.value = 3))).toBe(2)
  expect(await after(() => (wanted.value = 4))).toBe(2)
  expect(await after(() => (underWay.value = false))).toBe(4)
})
