<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { components } from '../generated/api'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { ago, dateTime, plain } from '../common/format'
import { now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { makeBackup } from './changes'
import { backups } from './queries/outside'

type Backup = components['schemas']['Backup']

const { data, error } = useQuery({
  ...backups(),
  // One that is being made is there in seconds to a minute.
  refetchInterval: ({ state }) => (state.data?.making_since ? 1_000 : 60_000),
})
const made = useChange(makeBackup)
const making = computed(() => made.isPending.value || !!data.value?.making_since)
const says = computed(() => {
  const { last, making_since } = data.value ?? {}
  if (making_since) return 'A backup is being made. Everything goes on meanwhile.'
  return last ? `The last good backup was made ${ago(last, now.value)}.` : 'No backup was made yet.'
})

const why: Record<Backup['made_for'], string> = {
  night: 'by the clock',
  hand: 'by hand',
  upgrade: 'before a newer version took over',
}
const columns: LedgerColumn<Backup>[] = [
  { key: 'at', name: 'Made', text: (row) => dateTime(row.made_at), by: (row) => row.made_at },
  { key: 'why', name: 'Why', text: (row) => why[row.made_for] },
  {
    key: 'size',
    name: 'MB',
    text: (row) => plain(Math.round(row.bytes / 10_000) / 100),
    by: (row) => row.bytes,
    num: true,
  },
  { key: 'name', name: 'File', text: (row) => row.name, lead: true },
]
</script>

<template>
  <h1>Backups</h1>
  <ProblemNote :error="error ?? made.error.value" />
  <template v-if="data">
    <p class="verdict" data-test="backup-stands">
      {{ says }}
      <span v-if="data.is_old && !making" class="wrong">
        That is too long ago: what happened since would be lost with this machine.
      </span>
    </p>
    <p v-if="data.failed" class="wrong" role="alert" data-test="backup-failed">
      The last one was not made: {{ data.failed }}
    </p>
    <p>
      <el-button type="primary" :loading="making" data-test="backup-make" @click="made.mutate(null)">
        {{ making ? 'Making a backup…' : 'Make a backup now' }}
      </el-button>
    </p>
    <p class="quiet small">
      <template v-if="data.keep">
        One is made every night after {{ data.hour }}:00, and the newest {{ data.keep }} of these are kept.
      </template>
      <template v-else>None is made by the clock here: start the server with --keep-backups.</template>
      Each is one file in <code>{{ data.folder }}</code> on the server’s machine, with everything in it. Copy
      them to another machine, and try one now and then:
      <code>fair-tally restore FILE --data EMPTY-FOLDER</code>.
    </p>
    <LedgerTable
      v-if="data.backups.length"
      :columns="columns"
      :rows="data.backups"
      :key-of="(row) => row.name"
      label="Backups"
      test="backup"
    />
    <EmptyState v-else title="None is there yet">
      A backup is a copy of all there is at one moment. With one, a lost machine costs a day at the most.
    </EmptyState>
  </template>
</template>
