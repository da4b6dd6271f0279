<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import TextField from '../common/fields/TextField.vue'
import { ago, dateTime } from '../common/format'
import { now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { hasPasskeys, makePasskey } from '../common/session/passkeys'
import { addPasskey, removePasskey } from './changes'
import { passkeys } from './queries'

/** Signing in with the device in one's hand. */
type Row = Schemas['PasskeyRow']

const { data, error } = useQuery(passkeys())
const isAdding = ref(false)
const name = ref('')
/** Until the device has answered. */
const isAsking = ref(false)
const refused = ref<unknown>()
const added = useChange(addPasskey, () => {
  isAdding.value = false
  name.value = ''
})
async function make() {
  isAsking.value = true
  refused.value = undefined
  try {
    added.mutate({ name: name.value, credential: await makePasskey() })
  } catch (problem) {
    refused.value = problem
  } finally {
    isAsking.value = false
  }
}
const removed = useChange(removePasskey)
async function remove(row: Row) {
  if (
    await askToEnd(
      'Remove',
      row.name,
      'It signs nobody in from that moment on. The device may still offer it.',
    )
  )
    removed.mutate(row.id)
}
const columns: LedgerColumn<Row>[] = [
  { key: 'name', name: 'Passkey', text: (row) => row.name, lead: true },
  { key: 'made', name: 'Made', text: (row) => dateTime(row.made_at), by: (row) => row.made_at },
  {
    key: 'used',
    name: 'Last used',
    text: (row) => (row.used_at ? ago(row.used_at, now.value) : 'never'),
    by: (row) => row.used_at,
  },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section v-if="data && (data.can_be_made || data.passkeys.length)" aria-label="Passkeys">
    <h2 class="ruled">
      Passkeys
      <button
        v-if="hasPasskeys()"
        class="act"
        data-test="add-passkey"
        :aria-expanded="isAdding"
        @click="isAdding = !isAdding"
      >
        Make a passkey
      </button>
    </h2>
    <p class="quiet">
      With a passkey your phone or computer signs you in by its own lock, a finger or a face, and no password
      is typed.
    </p>
    <form v-if="isAdding" v-arrive class="inset" aria-label="Passkey" @submit.prevent="make()">
      <TextField
        v-model="name"
        label="What to call it"
        hint="Such as the device it is on"
        name="passkey-name"
        required
        :wrong="added.problem.value?.of('name')"
      />
      <ElButton
        type="primary"
        native-type="submit"
        :loading="isAsking || added.isPending.value"
        data-test="make-passkey"
      >
        Ask the device
      </ElButton>
      <ProblemNote :error="refused ?? added.error.value" :shown="['name']" />
    </form>
    <LedgerTable
      v-if="data.passkeys.length"
      :columns="columns"
      :rows="data.passkeys"
      :key-of="(row) => row.id"
      label="Passkeys"
      test="passkey"
    >
      <template #do="{ row }">
        <button class="act" @click="remove(row)">Remove it</button>
      </template>
    </LedgerTable>
    <ProblemNote :error="error ?? removed.error.value" />
  </section>
</template>

<style scoped>
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
