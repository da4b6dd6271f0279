<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import TextField from '../common/fields/TextField.vue'
import { dateTime } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { readSession } from '../common/session/useSession'
import { session } from '../common/session/session'
import { shareDevice, unshareDevice } from './changes'
import { devices } from './queries/outside'

/** Devices at which people change places with a number. */
type Row = Schemas['DeviceRow']

const { data, error } = useQuery(devices())
const isAdding = ref(false)
const name = ref('')
const shared = useChange(shareDevice, () => {
  isAdding.value = false
  name.value = ''
  void readSession()
})
const ended = useChange(unshareDevice, () => void readSession())
async function end(row: Row) {
  if (await askToEnd('Stop sharing', row.name, 'Numbers count there no longer; passwords do.'))
    ended.mutate(row.id)
}
const columns: LedgerColumn<Row>[] = [
  { key: 'name', name: 'Device', text: (row) => row.name, lead: true },
  {
    key: 'made',
    name: 'Shared',
    text: (row) => `${row.made_by}, ${dateTime(row.made_at)}`,
    by: (row) => row.made_at,
  },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section v-if="data" aria-label="Shared devices">
    <h2 class="ruled">
      Shared devices
      <button
        v-if="!session?.shared"
        class="act"
        data-test="share-device"
        :aria-expanded="isAdding"
        @click="isAdding = !isAdding"
      >
        Share this device
      </button>
    </h2>
    <p class="quiet">
      At a phone or computer that a crew shares, people change places with a short number of their own instead
      of the password. Approvals, people and keys ask for the password there too.
    </p>
    <form
      v-if="isAdding"
      v-arrive
      class="inset"
      aria-label="Device"
      @submit.prevent="shared.mutate({ name })"
    >
      <TextField
        v-model="name"
        label="What to call this device"
        hint="Such as where it lies"
        name="device-name"
        required
        :wrong="shared.problem.value?.of('name')"
      />
      <ElButton type="primary" native-type="submit" :loading="shared.isPending.value" data-test="make-device">
        Share it
      </ElButton>
      <ProblemNote :error="shared.error.value" :shown="['name']" />
    </form>
    <p v-if="session?.shared" class="verdict" data-test="this-device">
      This one is shared, as {{ session.shared.name }}.
    </p>
    <LedgerTable
      v-if="data.length"
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.id"
      label="Shared devices"
      test="device"
    >
      <template #do="{ row }">
        <button class="act" @click="end(row)">Stop sharing</button>
      </template>
    </LedgerTable>
    <ProblemNote :error="error ?? ended.error.value" />
  </section>
</template>

<style scoped>
section {
  margin-top: 34px;
}

form {
  display: grid;
  gap: 14px;
  max-width: 430px;
  justify-items: start;
}

form > :not(.el-button) {
  width: 100%;
}
</style>
