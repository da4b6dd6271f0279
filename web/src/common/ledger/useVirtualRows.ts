import { useMediaQuery } from '@vueuse/core'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { type MaybeRefOrGetter, type Ref, computed, onMounted, onUpdated, ref, toValue } from 'vue'

/** Fewer rows than this are all drawn. */
const FEW = 100
/** Height of a row until it is measured, in pixels. */
const ROW = 44
/** Rows drawn beyond either edge, so that keys always find the next. */
const BEYOND = 12

/**
 * The rows of a table that are drawn: all of a short one, those near the screen of a long one, and all of them on paper.
 * `before` and `after` are the heights of what is left out.
 */
export function useVirtualRows(table: Ref<HTMLElement | null>, count: MaybeRefOrGetter<number>) {
  const onPaper = useMediaQuery('print')
  const isLong = computed(() => toValue(count) > FEW && !onPaper.value)
  /** The screen scrolls, not the table. */
  const screen = () => document.getElementById('screen')
  /** Where the table begins in what scrolls. */
  const top = ref(0)
  function place() {
    const scrolls = screen()
    if (!scrolls || !table.value || !isLong.value) return
    const begins =
      table.value.getBoundingClientRect().top - scrolls.getBoundingClientRect().top + scrolls.scrollTop
    if (Math.abs(begins - top.value) > 1) top.value = begins
  }
  onMounted(place)
  onUpdated(place)
  const virtualizer = useVirtualizer(
    computed(() => ({
      count: isLong.value ? toValue(count) : 0,
      getScrollElement: screen,
      estimateSize: () => ROW,
      overscan: BEYOND,
      scrollMargin: top.value,
    })),
  )
  const items = computed(() => virtualizer.value.getVirtualItems())
  return {
    isLong,
    places: computed(() =>
      isLong.value
        ? items.value.map((item) => item.index)
        : Array.from({ length: toValue(count) }, (_, n) => n),
    ),
    before: computed(() => (isLong.value ? Math.max(0, (items.value[0]?.start ?? 0) - top.value) : 0)),
    after: computed(() => {
      const last = items.value.at(-1)
      return isLong.value && last ? Math.max(0, virtualizer.value.getTotalSize() + top.value - last.end) : 0
    }),
    measure: (element: unknown) => {
      if (isLong.value && element instanceof HTMLElement) virtualizer.value.measureElement(element)
    },
  }
}
