import { LineChart } from 'echarts/charts'
import { DataZoomComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { type Ref, computed, watch } from 'vue'
import type { MeterDetail } from '../common/api'
import { dateTime, plain, reading } from '../common/format'
import { ticks } from '../common/chart/ticks'
import { ink, useChart } from '../common/chart/useChart'
import type { OtherSeries } from './useOther'
import { BOTTOM, LEFT, RIGHT, type Range, TOP, type View, broken, rangeOf } from '../common/chart/geometry'

use([LineChart, GridComponent, TooltipComponent, DataZoomComponent])

/**
 * A line over time in `canvas` that zooms within `whole`. `range` is what its value axis shows, so that other things can
 * be drawn over it.
 */
export function useTrend(
  canvas: Readonly<Ref<HTMLElement | null>>,
  given: {
    points: Ref<[number, number][]>
    view: Ref<View>
    whole: Ref<View>
    setpoints: Ref<number[]>
    width: Ref<number>
    meter: () => MeterDetail
    /** Another meter on the same time axis, with a scale of its own. */
    other: Ref<OtherSeries | undefined>
  },
) {
  const { points, view, whole, setpoints, width, other } = given
  const { meter } = given
  const edges = computed(() => {
    const values = points.value.map(([, value]) => value)
    return values.length ? [Math.min(...values), Math.max(...values)] : []
  })
  // The same range stays the same thing: while a setpoint moves within it, nothing is drawn anew.
  const range = computed<Range>((before) => {
    const next =
      meter().kind === 'grade'
        ? { low: -0.4, high: meter().grades.length - 0.6 }
        : rangeOf([...edges.value, ...setpoints.value])
    return before && before.low === next.low && before.high === next.high ? before : next
  })
  /** Ticks by the installation's clock; the library's own would go by the browser's. */
  const axis = computed(() => ticks(view.value.from, view.value.to, width.value / 90))
  const ofAxis = () => ({
    customValues: axis.value.map(({ at }) => at),
    formatter: (at: number) => axis.value.find((tick) => tick.at === at)?.says ?? '',
  })

  function option() {
    const grades = meter().grades
    const isGrade = meter().kind === 'grade'
    const text = { color: ink('--ink-2'), fontFamily: ink('--sans'), fontSize: 12.5 }
    return {
      textStyle: { fontFamily: ink('--sans') },
      grid: { left: LEFT, right: RIGHT, top: TOP, bottom: BOTTOM },
      xAxis: {
        type: 'time',
        min: whole.value.from,
        max: whole.value.to,
        axisLine: { lineStyle: { color: ink('--ink') } },
        axisTick: { show: false },
        axisLabel: { ...text, hideOverlap: true, ...ofAxis() },
        splitLine: { show: false },
      },
      yAxis: [
        {
          type: 'value',
          min: range.value.low,
          max: range.value.high,
          interval: isGrade ? 1 : undefined,
          axisLabel: {
            ...text,
            showMinLabel: range.value.low === 0,
            showMaxLabel: false,
            formatter: (value: number) => (isGrade ? (grades[Math.round(value)] ?? '') : plain(value)),
          },
          splitLine: { lineStyle: { color: ink('--rule') } },
        },
        {
          type: 'value',
          show: other.value !== undefined,
          scale: true,
          position: 'right',
          axisLabel: {
            ...text,
            color: ink('--other'),
            inside: true,
            showMinLabel: false,
            showMaxLabel: false,
          },
          splitLine: { show: false },
        },
      ],
      tooltip: {
        trigger: 'axis',
        backgroundColor: ink('--paper'),
        borderColor: ink('--ink'),
        textStyle: { color: ink('--ink'), fontFamily: ink('--sans'), fontSize: 13 },
        formatter: (items: { seriesIndex: number; value: [number, number] }[]) => {
          const [item] = items
          if (!item) return ''
          const shown = items.map(({ seriesIndex, value }) =>
            seriesIndex === 0
              ? `<b>${reading(value[1], meter().unit, grades)}</b>`
              : `${reading(value[1], other.value?.unit ?? '1')}`,
          )
          return [dateTime(item.value[0]), ...shown].join('<br>')
        },
      },
      dataZoom: [
        { type: 'inside', startValue: view.value.from, endValue: view.value.to, filterMode: 'none' },
      ],
      series: [
        {
          type: 'line',
          data: broken(points.value),
          step: isGrade ? 'end' : false,
          showSymbol: points.value.length < 60,
          symbolSize: 5,
          lineStyle: { color: ink('--ink'), width: 1.3 },
          itemStyle: { color: ink('--ink') },
        },
        ...(other.value
          ? [
              {
                type: 'line',
                yAxisIndex: 1,
                data: broken(other.value.points),
                showSymbol: false,
                lineStyle: { color: ink('--other'), width: 1.2 },
                itemStyle: { color: ink('--other') },
              },
            ]
          : []),
      ],
    }
  }
  const { change } = useChart(canvas, {
    width,
    option,
    on: [points, range, whole, other],
    ready: (chart) =>
      chart.on('datazoom', () => {
        const zoom = (chart.getOption().dataZoom as { startValue: number; endValue: number }[])[0]
        if (!zoom) return
        const next = { from: Math.round(zoom.startValue), to: Math.round(zoom.endValue) }
        if (next.from !== view.value.from || next.to !== view.value.to) view.value = next
      }),
  })
  watch(axis, () => change({ xAxis: { axisLabel: ofAxis() } }))
  return { range }
}
