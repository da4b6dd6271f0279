<script setup lang="ts">
import TextField from '../common/fields/TextField.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { webhooks } from './queries/outside'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { askToEnd } from '../common/ask'
import { dateTime, whole } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { addWebhook, resendDelivery, resendFailed, stopWebhook } from './changes'

const { data, error } = useQuery({ ...webhooks(), refetchInterval: 5_000, retry: false })
const url = ref('http://127.0.0.1:8430/')
const secret = ref('')
const adding = ref(false)
const added = useChange(addWebhook, () => {
  adding.value = false
  secret.value = ''
})
const stopped = useChange(stopWebhook)
async function stop(one: { id: number; url: string }) {
  const follows = 'It is told nothing any more, and what waits for it is given up.'
  if (await askToEnd('Stop', one.url, follows)) stopped.mutate(one.id)
}
const sentAgain = useChange(resendFailed)
const resent = useChange(resendDelivery)
const active = computed(() => (data.value?.webhooks ?? []).filter((one) => one.active))

type Webhook = (typeof active.value)[number]
const columns: LedgerColumn<Webhook>[] = [
  { key: 'url', name: 'Address', text: (row) => row.url, lead: true },
  {
    key: 'delivered',
    name: 'Delivered',
    text: (row) => whole(row.delivered),
    by: (row) => row.delivered,
    num: true,
  },
  { key: 'waiting', name: 'Waiting', text: (row) => whole(row.waiting), by: (row) => row.waiting, num: true },
  { key: 'failed', name: 'Given up', text: (row) => whole(row.failed), by: (row) => row.failed, num: true },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
type Delivery = NonNullable<typeof data.value>['deliveries'][number]
const went = (row: Delivery) => {
  if (row.delivered_at) return `delivered ${dateTime(row.delivered_at)}`
  return row.next_at ? `${row.last_error} again ${dateTime(row.next_at)}` : `given up: ${row.last_error}`
}
const deliveryColumns: LedgerColumn<Delivery>[] = [
  {
    key: 'event',
    name: 'Event',
    text: (row) => whole(row.event),
    by: (row) => row.event,
    num: true,
    lead: true,
  },
  { key: 'kind', name: 'Kind', text: (row) => row.kind.replace('_', ' ') },
  { key: 'at', name: 'Happened', text: (row) => dateTime(row.at), by: (row) => row.at },
  {
    key: 'attempts',
    name: 'Attempts',
    text: (row) => whole(row.attempts),
    by: (row) => row.attempts,
    num: true,
  },
  { key: 'went', name: 'How it went', text: went },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section aria-label="Webhooks">
    <h2 class="ruled">Webhooks <button class="act" @click="adding = !adding">Add an address</button></h2>
    <p class="quiet small">
      Alarms, raised work and its states are sent as JSON, signed with the secret
      (<code>x-fair-tally-signature</code>, HMAC-SHA256), tried again with longer and longer waits, and known
      by their id. <code>fair-tally receiver</code> is one to try.
    </p>
    <form
      v-if="adding"
      v-arrive
      class="inset"
      aria-label="Webhook"
      @submit.prevent="added.mutate({ url, secret })"
    >
      <TextField
        v-model="url"
        label="Address"
        :wrong="added.problem.value?.of('url')"
        class="wide"
        name="url"
        required
      />
      <TextField
        v-model="secret"
        label="Secret, 16 letters or more"
        :wrong="added.problem.value?.of('secret')"
        name="secret"
        required
      />
      <ElButton type="primary" native-type="submit" :loading="added.isPending.value">Add</ElButton>
      <ProblemNote :error="added.error.value" :shown="['url', 'secret']" />
    </form>
    <ProblemNote :error="error ?? stopped.error.value ?? sentAgain.error.value ?? resent.error.value" />
    <LedgerTable
      v-if="active.length"
      :columns="columns"
      :rows="active"
      :key-of="(row) => row.id"
      label="Addresses"
      test="webhook"
    >
      <template #do="{ row }"
        ><button v-if="row.failed" class="act" data-test="resend-failed" @click="sentAgain.mutate(row.id)">
          Send what was given up again
        </button>
        <button class="act" @click="stop(row)">Stop</button></template
      >
    </LedgerTable>
    <p v-else-if="data" class="quiet">No address is told of anything.</p>
    <details v-if="data?.deliveries.length">
      <summary>The last {{ data.deliveries.length }} deliveries</summary>
      <LedgerTable
        :columns="deliveryColumns"
        :rows="data.deliveries"
        :key-of="(row) => row.id"
        label="Deliveries"
        test="delivery"
      >
        <template #do="{ row }"
          ><button class="act" @click="resent.mutate(row.id)">Send again</button></template
        >
      </LedgerTable>
    </details>
  </section>
</template>

<style scoped>
h2 {
  margin-top: 26px;
}
</style>
