// @vitest-environment happy-dom
import { flushPromises } from '@vue/test-utils'
import { afterEach, expect, test } from 'vitest'
import { effectScope } from 'vue'
import { served } from '../mounted'
import { type SentFile, useSending } from './useSending'

let stop = () => {}
afterEach(() => stop())

const files = (...given: File[]) => given as unknown as FileList

test('each file that the server has is handed on, and a paper shows no picture', async () => {
  const server = served({ 'POST /api/v1/files': { file: 'f1', media_type: 'image/jpeg' } })
  stop = server.stop
  const got: SentFile[] = []
  const scope = effectScope()
  const { under, give } = scope.run(() => useSending((sent) => got.push(sent)))!
  await give(
    files(
      new File(['a'], 'a.png', { type: 'image/png' }),
      new File(['b'], 'b.pdf', { type: 'application/pdf' }),
    ),
  )
  await flushPromises()
  expect(got.map(({ file, name }) => [file, name])).toEqual([
    ['f1', 'a.png'],
    ['f1', 'b.pdf'],
  ])
  expect(got.map(({ shown }) => shown !== undefined)).toEqual([true, false])
  expect(under.value).toEqual([])
  scope.stop()
})

test('what is refused stands with its reason until it is left out', async () => {
  const server = served({})
  stop = server.stop
  const scope = effectScope()
  const { under, give, leave } = scope.run(() => useSending(() => expect.fail('nothing was kept')))!
  await give(files(new File(['a'], 'a.png', { type: 'image/png' })))
  expect(under.value.map((one) => [one.from.name, Boolean(one.wrong)])).toEqual([['a.png', true]])
  leave(under.value[0]!)
  expect(under.value).toEqual([])
  scope.stop()
})
