// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h, nextTick, ref } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { useDraft } from './useDraft'

interface Book {
  code: string
  change: number
  name: string
}

/** An editor of a book's name, and the colleague who saves another one. */
async function editor(leave: (name: string) => Promise<boolean> = async () => true) {
  const theirs = ref<Book | undefined>()
  let edited!: ReturnType<typeof useDraft<Book, { name: string }>>
  const Editor = defineComponent({
    setup() {
      edited = useDraft<Book, { name: string }>(
        {
          theirs: () => theirs.value,
          of: (book) => book.code,
          version: (book) => book.change,
          draftOf: (book) => ({ name: book.name }),
          same: (mine, book) => mine.name === book.name,
          name: () => 'the book',
        },
        leave,
      )
      return () => h('p')
    },
  })
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)', component: { render: () => h('p') } }],
  })
  await router.push('/here')
  const wrapper = mount(Editor, { global: { plugins: [router] } })
  const saves = async (book: Book) => {
    theirs.value = book
    await nextTick()
  }
  await saves({ code: 'pumps', change: 1, name: 'Pumps' })
  return { edited, saves, router, wrapper }
}

describe('a draft', () => {
  it('follows what is saved as long as nothing is typed', async () => {
    const { edited, saves } = await editor()
    await saves({ code: 'pumps', change: 2, name: 'All pumps' })
    expect(edited.draft.value.name).toBe('All pumps')
    expect([edited.changed.value, edited.newer.value, edited.basedOn()]).toEqual([false, undefined, 2])
  })

  it('is kept when a colleague saves, says so, and is still based on what it began from', async () => {
    const { edited, saves } = await editor()
    edited.draft.value.name = 'My pumps'
    await saves({ code: 'pumps', change: 2, name: 'All pumps' })
    expect(edited.draft.value.name).toBe('My pumps')
    expect([edited.newer.value?.change, edited.basedOn()]).toEqual([2, 1])
    edited.keepMine()
    expect([edited.draft.value.name, edited.newer.value, edited.basedOn()]).toEqual([
      'My pumps',
      undefined,
      2,
    ])
    expect(edited.changed.value).toBe(true)
  })

  it('gives way to theirs when asked to', async () => {
    const { edited, saves } = await editor()
    edited.draft.value.name = 'My pumps'
    await saves({ code: 'pumps', change: 2, name: 'All pumps' })
    edited.takeTheirs()
    expect([edited.draft.value.name, edited.changed.value]).toEqual(['All pumps', false])
  })

  it('is done when what was sent comes back', async () => {
    const { edited, saves } = await editor()
    edited.draft.value.name = 'My pumps'
    await saves({ code: 'pumps', change: 2, name: 'My pumps' })
    expect([edited.changed.value, edited.newer.value, edited.basedOn()]).toEqual([false, undefined, 2])
  })

  it('is done when it was saved, however the server keeps it', async () => {
    const { edited, saves } = await editor()
    edited.draft.value.name = 'my pumps '
    await edited.afterSave(() => saves({ code: 'pumps', change: 2, name: 'My pumps' }))
    expect([edited.draft.value.name, edited.changed.value, edited.newer.value]).toEqual([
      'My pumps',
      false,
      undefined,
    ])
  })

  it('of another book begins anew', async () => {
    const { edited, saves } = await editor()
    edited.draft.value.name = 'My pumps'
    await saves({ code: 'lifts', change: 7, name: 'Lifts' })
    expect([edited.draft.value.name, edited.basedOn()]).toEqual(['Lifts', 7])
  })

  it('is not left without being asked, but for the same screen', async () => {
    const leave = vi.fn(async () => false)
    const { edited, router, wrapper } = await editor(leave)
    await router.push('/there')
    expect(leave).not.toHaveBeenCalled()
    await router.push('/here')
    edited.draft.value.name = 'My pumps'
    await router.push('/here?period=2026')
    expect(leave).not.toHaveBeenCalled()
    await router.push('/there')
    expect(leave).toHaveBeenCalledWith('the book')
    expect(router.currentRoute.value.path).toBe('/here')
    wrapper.unmount()
    await router.push('/there')
    expect(router.currentRoute.value.path).toBe('/there')
  })
})
