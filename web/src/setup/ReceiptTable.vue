<script setup lang="ts">
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
</script>

<template>
  <div v-if="rows.length" class="rows" tabindex="0" role="region" aria-label="Row by row">
    <table class="ledger">
      <thead>
        <tr>
          <th v-if="lines" class="num">Line</th>
          <th>Code</th>
          <th>What becomes of it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows.slice(0, MOST)" :key="row.line" :data-test="`row-${row.outcome}`">
          <td v-if="lines" class="num">{{ row.line }}</td>
          <td class="code">{{ row.code }}</td>
          <td>
            <strong :class="{ wrong: row.outcome === 'refused' }">{{ words[row.outcome] }}</strong>
            <template v-if="row.reasons.length"> {{ reasons(row) }}</template>
            <span v-for="change in row.changes" :key="change.field" class="change">
              {{ change.field }}: <s v-if="change.from">{{ change.from }}</s>
              <template v-else>empty</template> → {{ change.to || 'empty' }}
            </span>
          </td>
        </tr>
      </tbody>
    </table>
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

td strong {
  margin-right: 8px;
}

.code {
  white-space: nowrap;
}

.change {
  margin-right: 12px;
}

s {
  color: var(--ink-2);
}
</style>
