// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { type Ref, defineComponent, h } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { useSearch } from './useSearch'

async function field(address: string) {
  let text!: Ref<string>
  const Field = defineComponent({
    setup() {
      text = useSearch()
      return () => h('p')
    },
  })
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)', component: { render: () => h('p') } }],
  })
  await router.push(address)
  mount(Field, { global: { plugins: [router] } })
  const typed = async (letters: string) => {
    text.value = letters
    await vi.advanceTimersByTimeAsync(300)
  }
  return { text, router, typed }
}

describe('a search field', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('begins with what the address says, and the address follows a pause in typing', async () => {
    const { text, router, typed } = await field('/work?text=pump&state=open')
    expect(text.value).toBe('pump')
    await typed('pumps')
    expect(router.currentRoute.value.query).toEqual({ text: 'pumps', state: 'open' })
    await typed('')
    expect(router.currentRoute.value.query).toEqual({ state: 'open' })
  })

  it('leaves no step of history for each pause, and follows when somebody goes back', async () => {
    const { text, router, typed } = await field('/work')
    await typed('pu')
    await typed('pump')
    await router.push('/work?text=motor')
    expect(text.value).toBe('motor')
    router.back()
    await vi.advanceTimersByTimeAsync(50)
    expect([text.value, router.currentRoute.value.query.text]).toEqual(['pump', 'pump'])
  })
})
