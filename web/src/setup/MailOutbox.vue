<script setup lang="ts">
import MoreRows from '../common/ledger/MoreRows.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { outbox } from './queries/outside'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { whole, dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'

const { to } = useAddress()
const waits = (message: { sent_at?: string | null; failed?: string | null }) =>
  !message.sent_at && !message.failed
const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
  ...outbox(),
  // What waits is written within a second or two.
  refetchInterval: ({ state }) =>
    state.data?.pages.some((page) => page.messages.some(waits)) ? 2_000 : false,
})
const messages = computed(() => data.value?.pages.flatMap((page) => page.messages) ?? [])
const total = computed(() => data.value?.pages[0]?.total ?? 0)
const open = ref<number>()

type Message = (typeof messages.value)[number]
const columns: LedgerColumn<Message>[] = [
  { key: 'at', name: 'Written', text: (row) => dateTime(row.at), by: (row) => row.at },
  { key: 'person', name: 'To', by: (row) => row.person_name },
  { key: 'subject', name: 'Subject', by: (row) => row.subject, lead: true },
  { key: 'work', name: 'Work', by: (row) => row.work_order },
  { key: 'file', name: 'File', by: (row) => row.failed ?? row.file },
]
</script>

<template>
  <section aria-label="Outbox">
    <h2 class="ruled">
      Outbox <span v-if="total" class="quiet small">{{ whole(total) }} messages</span>
    </h2>
    <p class="quiet small">
      Mail to the people whom limits name, with the same words as the work. Each is written as a file (RFC
      5322) into the folder <code>outbox</code> of the data.
    </p>
    <ProblemNote :error="error" />
    <LedgerTable
      v-if="messages.length"
      :columns="columns"
      :rows="messages"
      :key-of="(row) => row.id"
      :opened="open"
      label="Messages"
      test="message"
    >
      <template #person="{ row }"
        ><span :title="row.mail ?? 'no address; read here'">{{ row.person_name }}</span></template
      >
      <template #subject="{ row }">
        <button
          class="plain subject"
          :aria-expanded="open === row.id"
          data-row
          @click="open = open === row.id ? undefined : row.id"
        >
          {{ row.subject }}
        </button>
      </template>
      <template #work="{ row }">
        <RouterLink v-if="row.work_order" :to="to(`/work/${row.work_order}`)" class="in-text">{{
          row.work_order
        }}</RouterLink>
      </template>
      <template #file="{ row }">
        <span v-if="row.failed" class="wrong small" data-test="message-failed">{{ row.failed }}</span>
        <span v-else class="quiet small">{{ row.file ?? 'waiting' }}</span>
      </template>
      <template #below="{ row }">
        <pre data-test="message-body">{{ row.body }}</pre>
      </template>
    </LedgerTable>
    <p v-else-if="data" class="quiet">Nobody was told anything yet. Name people in a rung’s response.</p>
    <MoreRows
      :more="hasNextPage"
      :busy="isFetchingNextPage"
      says="Show more messages"
      @more="fetchNextPage()"
    />
  </section>
</template>

<style scoped>
h2 {
  margin-top: 26px;
}

.subject {
  font-weight: 600;
}

pre {
  margin: 2px 0 8px;
  font: inherit;
  white-space: pre-wrap;
}
</style>
