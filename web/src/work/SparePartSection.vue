<script setup lang="ts">
import type { WorkDetail } from '../common/api'
import { plain } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'

/** What the storeroom keeps that fits the order's asset. */
const props = defineProps<{ work: WorkDetail }>()
type Row = WorkDetail['spare_parts'][number]
const columns: LedgerColumn<Row>[] = [
  { key: 'item', name: 'Part', text: (row) => row.item, lead: true },
  { key: 'code', name: 'Number', text: (row) => row.code, nowrap: true },
  { key: 'place', name: 'Place', text: (row) => row.place ?? '', nowrap: true },
  { key: 'stock', name: 'In stock', text: (row) => plain(row.on_hand), by: (row) => row.on_hand, num: true },
  {
    key: 'lead',
    name: 'Days to get',
    text: (row) => (row.lead_days == null ? '' : String(row.lead_days)),
    by: (row) => row.lead_days ?? undefined,
    num: true,
  },
]
</script>

<template>
  <section v-if="props.work.spare_parts.length" class="no-print" data-test="spare-parts">
    <details>
      <summary>
        <h2>
          Spare parts that fit {{ work.asset.name }}
          <span class="quiet small">{{ work.spare_parts.length }}</span>
        </h2>
      </summary>
      <LedgerTable
        :columns="columns"
        :rows="work.spare_parts"
        :key-of="(row) => row.code"
        label="Spare parts"
        test="spare-part"
      />
    </details>
  </section>
</template>

<style scoped>
summary {
  cursor: pointer;
  list-style: none;
}

summary h2::before {
  content: '›';
  color: var(--ink-2);
}

details[open] summary h2::before {
  content: '⌄';
}
</style>
