<script setup lang="ts">
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { whole } from '../common/format'
import { computed } from 'vue'
import type { MasterReceipt, RowReport } from './kinds'

const props = defineProps<{
  receipt: MasterReceipt
  /** The rows stand in a file: say on which line. */
  lines?: boolean
}>()

/** Rows shown; all of them can be saved. */
const MOST = 200
const order = { refused: 0, changed: 1, added: 2, unchanged: 3 }
/** What is wrong comes first. */
const rows = computed(() =>
  [...props.receipt.lines].sort((a, b) => order[a.outcome] - order[b.outcome] || a.line - b.line),
)
const words = { refused: 'refused', changed: 'changes', added: 'new', unchanged: '' }
const reasons = (row: RowReport) =>
  row.reasons.map((reason) => (reason.field ? `${reason.field}: ${reason.reason}` : reason.reason)).join('; ')

const columns = computed<LedgerColumn<RowReport>[]>(() => [
  ...(props.lines
    ? [
        {
          key: 'line',
          name: 'Line',
          text: (row: RowReport) => whole(row.line),
          by: (row: RowReport) => row.line,
          num: true,
        },
      ]
    : []),
  { key: 'code', name: 'Code', text: (row) => row.code, nowrap: true, lead: true },
  { key: 'becomes', name: 'What becomes of it', by: (row) => words[row.outcome] },
])
</script>

<template>
  <div v-if="rows.length" class="rows" tabindex="0" role="region" aria-label="Row by row">
    <LedgerTable
      :columns="columns"
      :rows="rows.slice(0, MOST)"
      :key-of="(row) => row.line"
      label="Row by row"
      :test="(row) => `row-${row.outcome}`"
    >
      <template #becomes="{ row }">
        <strong :class="{ wrong: row.outcome === 'refused' }">{{ words[row.outcome] }}</strong>
        <template v-if="row.reasons.length"> {{ reasons(row) }}</template>
        <span v-for="change in row.changes" :key="change.field" class="change">
          {{ change.field }}: <s v-if="change.from">{{ change.from }}</s> <template v-else>empty</template> →
          {{ change.to || 'empty' }}
        </span>
      </template>
    </LedgerTable>
  </div>
  <p v-if="rows.length > MOST || receipt.more_lines" class="quiet small">
    {{ whole(rows.length - Math.min(rows.length, MOST) + receipt.more_lines) }} more rows like these.
  </p>
</template>

<style scoped>
.rows {
  max-height: 320px;
  overflow: auto;
  margin-bottom: 10px;
}

strong.wrong {
  font-size: inherit;
}

strong {
  margin-right: 8px;
}

.change {
  margin-right: 12px;
}

s {
  color: var(--ink-2);
}
</style>
