<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import AssetField from '../common/fields/AssetField.vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import DateField from '../common/fields/DateField.vue'
import TextField from '../common/fields/TextField.vue'
import { ago, date, dateTime, fromLocal, whole } from '../common/format'
import { now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { roles } from '../generated/words'
import SharedDevices from './SharedDevices.vue'
import ShownOnce from './ShownOnce.vue'
import { addKey, revokeKey } from './changes'
import { keys } from './queries/outside'

type Key = Schemas['KeyRow']

const { data, error } = useQuery({ ...keys(), refetchInterval: 60_000 })
const given = reactive({ name: '', role: 'gateway' as Schemas['Role'], scope: '', until: '' })
const isAdding = ref(false)
const made = ref<Schemas['MadeKey']>()
const added = useChange(addKey, (key) => {
  made.value = key as Schemas['MadeKey']
  isAdding.value = false
  Object.assign(given, { name: '', scope: '', until: '' })
})
const body = (): Schemas['NewKey'] => ({
  name: given.name,
  role: given.role,
  scope: given.scope || null,
  expires_at: given.until ? fromLocal(`${given.until}T00:00`) : null,
})
const revoked = useChange(revokeKey)
async function revoke(name: string) {
  if (await askToEnd('Revoke', name, 'Whatever sends with it is refused from that moment on, for good.'))
    revoked.mutate(name)
}
const works = computed(() => data.value?.filter((key) => key.works).length ?? 0)
const says = computed(() =>
  works.value === 1 ? 'One key lets a program in.' : `${whole(works.value)} keys let programs in.`,
)
const stands = (key: Key) => {
  if (key.revoked_at) return `revoked ${date(key.revoked_at)}`
  if (!key.works) return `expired ${date(key.expires_at!)}`
  return key.expires_at ? `works until ${date(key.expires_at)}` : 'works'
}
const columns: LedgerColumn<Key>[] = [
  { key: 'name', name: 'Key', text: (row) => row.name, by: (row) => row.name, lead: true },
  { key: 'role', name: 'Role', text: (row) => row.role, by: (row) => row.role },
  { key: 'scope', name: 'Reaches', text: (row) => row.scope ?? 'everything' },
  { key: 'stands', name: 'Stands', text: stands },
  {
    key: 'used',
    name: 'Last used',
    text: (row) => (row.used_at ? ago(row.used_at, now.value) : 'never'),
    by: (row) => row.used_at,
  },
  {
    key: 'made',
    name: 'Made',
    text: (row) => `${row.made_by}, ${dateTime(row.made_at)}`,
    by: (row) => row.made_at,
  },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <h1>Keys</h1>
  <p class="quiet">
    Gateways and scripts send a key with each request, as <code>Authorization: Bearer …</code>; a program that
    is lost is shut out by revoking its key.
  </p>
  <ProblemNote :error="error ?? revoked.error.value" />
  <template v-if="data">
    <p v-if="data.length" class="verdict" data-test="keys-stand">{{ says }}</p>
    <p>
      <button class="act" data-test="add-key" :aria-expanded="isAdding" @click="isAdding = !isAdding">
        Make a key
      </button>
    </p>
    <form v-if="isAdding" v-arrive class="inset" aria-label="Key" @submit.prevent="added.mutate(body())">
      <TextField
        v-model="given.name"
        label="Name"
        hint="Stands with what it does, such as north-gateway"
        name="key-name"
        required
        :wrong="added.problem.value?.of('name')"
      />
      <ChoiceField v-model="given.role" label="Role" name="key-role">
        <option v-for="role in roles" :key="role" :value="role">{{ role }}</option>
      </ChoiceField>
      <AssetField
        v-model="given.scope"
        label="Only below (empty: everything)"
        :wrong="added.problem.value?.of('scope')"
      />
      <DateField
        v-model="given.until"
        label="Until (empty: no end)"
        name="key-until"
        :wrong="added.problem.value?.of('expires_at')"
      />
      <ElButton type="primary" native-type="submit" :loading="added.isPending.value" data-test="make-key">
        Make it
      </ElButton>
      <ProblemNote :error="added.error.value" :shown="['name', 'scope', 'expires_at']" />
    </form>
    <ShownOnce v-if="made" :secret="made.key" :of="`The key ${made.name}`" @seen="made = undefined" />
    <LedgerTable
      v-if="data.length"
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.name"
      label="Keys"
      test="key"
    >
      <template #do="{ row }">
        <button v-if="!row.revoked_at" class="act" @click="revoke(row.name)">Revoke</button>
      </template>
    </LedgerTable>
    <EmptyState v-else title="No program is let in yet">
      Make a key for each gateway, so that each can be shut out alone, and its readings say from where they
      came.
    </EmptyState>
  </template>
  <SharedDevices />
</template>
