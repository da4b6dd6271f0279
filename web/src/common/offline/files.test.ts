// @vitest-environment happy-dom
import { afterEach, expect, test } from 'vitest'
import { served } from '../mounted'
import { isWaiting, keepFile, whatWaits, withFilesSent } from './files'
import { forget } from './kept'

let stop: () => unknown = () => undefined
afterEach(async () => {
  stop()
  await forget('file ')
  await forget('sent ')
})
const photo = () => new File(['a'], 'a.png', { type: 'image/png' })
const naming = (file: string) => ({ number: 7, attachments: [{ file, name: 'a.png' }] })

test('what names a file that waited goes out with the name that the server gave it, once', async () => {
  const server = served({ 'POST /api/v1/files': { file: 'f1', media_type: 'image/png' } })
  stop = server.stop
  const name = await keepFile(photo())
  expect(isWaiting(name)).toBe(true)
  expect(await whatWaits(name)).toBeInstanceOf(Blob)
  expect(await withFilesSent(naming(name))).toEqual(naming('f1'))
  // Sent again, it is not sent twice; nothing of it is kept but what became of it.
  expect(await withFilesSent(naming(name))).toEqual(naming('f1'))
  expect(server.asked).toHaveLength(1)
  expect(await whatWaits(name)).toBe('f1')
})

test('what waits for nothing goes as it is, also where its words look alike', async () => {
  const given = { text: 'it waits- a lot', file: 'waits-1', none: null }
  expect(await withFilesSent(given)).toBe(given)
})

test('a file is kept as long as no server has it, and one that is gone is said to be', async () => {
  const server = served({
    'POST /api/v1/files': () => {
      throw new TypeError('Failed to fetch')
    },
  })
  stop = server.stop
  const name = await keepFile(photo())
  await expect(withFilesSent(naming(name))).rejects.toMatchObject({ status: 0 })
  expect(await whatWaits(name)).toBeInstanceOf(Blob)
  await forget('file ')
  await expect(withFilesSent(naming(name))).rejects.toMatchObject({ status: 410 })
})
