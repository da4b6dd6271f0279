// @vitest-environment happy-dom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { type News, isOld, nothing } from './news'
import { useLive } from './useLive'

describe('news', () => {
  const read: News = { ...nothing(), meters: ['V1'] }

  it('of a reading makes old what shows that meter, and no other one', () => {
    expect(isOld(['series', 'V1', { from: 1 }], read)).toBe(true)
    expect(isOld(['replay', 'V1', 'last_12_months'], read)).toBe(true)
    expect(isOld(['series', 'V2', { from: 1 }], read)).toBe(false)
    expect(isOld(['replay', 'family', 'gearbox'], read)).toBe(false)
    expect(isOld(['meters', '', 'last_12_months'], read)).toBe(true)
    expect(isOld(['tally', ''], read)).toBe(false)
  })

  it('of very many meters makes all of them old', () => {
    const many = { ...nothing(), meters: Array.from({ length: 1_000 }, (_, n) => `M${n}`) }
    expect(isOld(['series', 'V2'], many)).toBe(true)
  })

  it('of work reaches the tally and its why, and of the setup everything', () => {
    expect(isOld(['tally', ''], { ...nothing(), work: true })).toBe(true)
    expect(isOld(['why', 'cost_total~G1'], { ...nothing(), work: true })).toBe(true)
    expect(isOld(['ladder', 'V1'], { ...nothing(), work: true })).toBe(false)
    for (const key of ['ladder', 'master', 'codebook', 'settings', 'tally'])
      expect(isOld([key], { ...nothing(), setup: true })).toBe(true)
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
      for (const key of ['series', 'tally']) if (predicate({ queryKey: [key, 'V1'] })) asked.push(key)
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
