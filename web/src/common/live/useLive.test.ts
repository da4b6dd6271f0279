// @vitest-environment happy-dom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { settings } from '../queries/plant'
import type { Topic } from '../live/news'
import { figures } from '../queries/tally'
import { series } from '../queries/watch'
import { session } from '../session/session'
import { type News, isOld, nothing } from './news'
import { useLive } from './useLive'

describe('news', () => {
  const read: News = { ...nothing(), meters: ['V1'] }

  it('of a reading makes old what hangs on that meter or on all readings, and nothing else', () => {
    expect(isOld(['meter:V1'], read)).toBe(true)
    expect(isOld(['alarms', 'meter:V1'], read)).toBe(true)
    expect(isOld(['meter:V2'], read)).toBe(false)
    expect(isOld(['readings'], read)).toBe(true)
    expect(isOld(['work'], read)).toBe(false)
    expect(isOld(undefined, read)).toBe(false)
  })

  it('of very many meters makes all of them old', () => {
    const many = { ...nothing(), meters: Array.from({ length: 1_000 }, (_, n) => `M${n}`) }
    expect(isOld(['meter:V2'], many)).toBe(true)
    expect(isOld(['work'], many)).toBe(false)
  })

  it('of work reaches the tally and its why, and of the setup everything', () => {
    const work = { ...nothing(), work: true }
    expect(isOld(figures({ depth: 1 }).meta?.on as Topic[], work)).toBe(true)
    expect(isOld(figures({ depth: 0, why: true }).meta?.on as Topic[], work)).toBe(true)
    expect(isOld(settings().meta?.on as Topic[], work)).toBe(false)
    expect(isOld(settings().meta?.on as Topic[], { ...nothing(), setup: true })).toBe(true)
    expect(isOld(undefined, { ...nothing(), setup: true })).toBe(true)
  })
})

/** An event source as the browser has it, whose connection breaks and comes back by hand. */
class Source extends EventTarget {
  static made: Source[] = []
  onmessage?: (event: { data: string }) => void
  onopen?: () => void
  closed = false
  constructor(readonly url: string) {
    super()
    Source.made.push(this)
  }
  close() {
    this.closed = true
  }
}

describe('a screen that listens', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    vi.stubGlobal('EventSource', Source)
    const somebody = { code: 'ena', name: 'Ena Brook', role: 'engineer' as const, is_for: '' }
    session.value = { signed_in: somebody, scope: [], is_first: false, has_passkeys: false, demo: [] }
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  it('reads again what a message names, and everything after the connection came back', async () => {
    const queryClient = new QueryClient()
    const asked: string[] = []
    vi.spyOn(queryClient, 'invalidateQueries').mockImplementation(async (filter) => {
      const { predicate } = filter as { predicate: (query: unknown) => boolean }
      for (const query of [series('V1', { from: 0, to: 1 }, 9), figures({ depth: 1 })])
        if (predicate(query)) asked.push(String(query.queryKey[0]))
    })
    const Screen = defineComponent({
      setup() {
        useLive()
        return () => h('p')
      },
    })
    const screen = mount(Screen, { global: { plugins: [[VueQueryPlugin, { queryClient }]] } })
    const source = Source.made.at(-1)!
    source.onopen?.()
    await vi.advanceTimersByTimeAsync(3_000)
    // Alarms and work that came between the first questions and the open connection; no whole series anew.
    expect(asked).toEqual(['tally'])
    asked.length = 0
    source.onmessage?.({ data: JSON.stringify({ ...nothing(), meters: ['V1'] }) })
    await vi.advanceTimersByTimeAsync(3_000)
    expect(asked).toEqual(['series'])
    source.onmessage?.({ data: JSON.stringify({ ...nothing(), meters: ['V2'] }) })
    await vi.advanceTimersByTimeAsync(3_000)
    expect(asked).toEqual(['series'])
    source.onopen?.()
    await vi.advanceTimersByTimeAsync(3_000)
    expect(asked).toEqual(['series', 'series', 'tally'])
    screen.unmount()
    expect(source.closed).toBe(true)
  })
})
