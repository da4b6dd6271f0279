import { useDark, useMediaQuery } from '@vueuse/core'
import type { EChartsCoreOption, EChartsType } from 'echarts/core'
import { init, use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { type Ref, type WatchSource, onBeforeUnmount, watch } from 'vue'

use([CanvasRenderer])

/** A colour or typeface of the page, for what is drawn beside it. */
export function ink(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim()
}

/**
 * A chart in `canvas`, as `option` says it: drawn anew when `on` or the page's theme changes, and for paper, and as wide as
 * it stands. `ready` is called once, with the chart.
 */
export function useChart(
  canvas: Readonly<Ref<HTMLElement | null>>,
  given: {
    width: Ref<number>
    option: () => EChartsCoreOption
    on: WatchSource[]
    ready?: (chart: EChartsType) => void
  },
) {
  const { option, on, ready, width } = given
  let chart: EChartsType | undefined
  const draw = () => chart?.setOption({ animation: false, ...option() }, { notMerge: true })
  watch(canvas, (element) => {
    chart?.dispose()
    if (!element) return
    chart = init(element)
    ready?.(chart)
    draw()
  })
  watch(width, () => chart?.resize())
  // After the theme has changed the page's own ink, which a canvas copies.
  watch([useDark(), useMediaQuery('print'), ...on], draw, { flush: 'post' })
  onBeforeUnmount(() => chart?.dispose())
  return {
    /** Changes a part without drawing the rest anew. */
    change: (part: EChartsCoreOption) => chart?.setOption(part),
  }
}
