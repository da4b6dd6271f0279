<script setup lang="ts" generic="Row">
import { useElementSize } from '@vueuse/core'
import { ref, useTemplateRef } from 'vue'
import LedgerTable from '../ledger/LedgerTable.vue'
import type { LedgerColumn } from '../ledger/columns'

/** The one frame of drawings: it measures them, says what they show, and has the figures behind them as a table. */
defineProps<{
  /** What is drawn. */
  label: string
  /** In pixels; as high as the drawing makes itself without it. */
  height?: number
  columns: LedgerColumn<Row>[]
  rows: Row[]
  keyOf: (row: Row) => string | number
  /** Data are being read again. */
  busy?: boolean
}>()
defineSlots<{
  /** The drawing, `width` pixels wide. */
  default(given: { width: number }): unknown
  /** What is said below it. */
  caption?(): unknown
}>()
const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)
const open = ref(false)
</script>

<template>
  <figure :aria-label="label">
    <div ref="box" class="drawing" :style="height ? { height: `${height}px` } : undefined" :aria-busy="busy">
      <slot :width="width" />
    </div>
    <slot name="caption" />
    <p v-if="rows.length" class="small behind no-print">
      <button type="button" class="act" :aria-expanded="open" data-test="as-table" @click="open = !open">
        {{ open ? 'Without the table' : 'As a table' }}
      </button>
    </p>
    <LedgerTable v-if="open" :columns="columns" :rows="rows" :key-of="keyOf" :label="label" test="drawn" />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}

.drawing {
  position: relative;
}

.behind {
  margin: 2px 0 6px;
}

.behind .act {
  padding: 0;
}
</style>
