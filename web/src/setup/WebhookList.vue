<script setup lang="ts">
import { webhooks } from './queries/outside'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api } from '../common/api'
import { askToEnd } from '../common/ask'
import { dateTime } from '../common/format'
import FormField from '../common/fields/FormField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'

const { data, error } = useQuery({ ...webhooks(), refetchInterval: 5_000, retry: false })
const url = ref('http://127.0.0.1:8430/')
const secret = ref('')
const adding = ref(false)
const added = useChange(
  () => answer(api.POST('/api/v1/webhooks', { body: { url: url.value, secret: secret.value } })),
  () => {
    adding.value = false
    secret.value = ''
  },
)
const path = (id: number) => ({ params: { path: { id } } })
const stopped = useChange((id: number) => answer(api.DELETE('/api/v1/webhooks/{id}', path(id))))
async function stop(one: { id: number; url: string }) {
  const follows = 'It is told nothing any more, and what waits for it is given up.'
  if (await askToEnd('Stop', one.url, follows)) stopped.mutate(one.id)
}
const resent = useChange((id: number) => answer(api.POST('/api/v1/deliveries/{id}/resend', path(id))))
const active = computed(() => (data.value?.webhooks ?? []).filter((one) => one.active))
</script>

<template>
  <section aria-label="Webhooks">
    <h2 class="ruled">Webhooks <button class="act" @click="adding = !adding">Add an address</button></h2>
    <p class="quiet small">
      Alarms, raised work and its states are sent as JSON, signed with the secret
      (<code>x-fair-tally-signature</code>, HMAC-SHA256), tried again with longer and longer waits, and known
      by their id. <code>fair-tally receiver</code> is one to try.
    </p>
    <form v-if="adding" v-arrive class="inset" aria-label="Webhook" @submit.prevent="added.mutate()">
      <FormField v-slot="{ field }" label="Address" :wrong="added.problem.value?.of('url')" class="wide">
        <input v-model="url" v-bind="field" class="line" name="url" required />
      </FormField>
      <FormField
        v-slot="{ field }"
        label="Secret, 16 letters or more"
        :wrong="added.problem.value?.of('secret')"
      >
        <input v-model="secret" v-bind="field" class="line" name="secret" required />
      </FormField>
      <ElButton type="primary" native-type="submit" :loading="added.isPending.value">Add</ElButton>
      <ProblemNote :error="added.error.value" :shown="['url', 'secret']" />
    </form>
    <ProblemNote :error="error ?? stopped.error.value ?? resent.error.value" />
    <table v-if="active.length" class="ledger">
      <thead>
        <tr>
          <th>Address</th>
          <th class="num">Delivered</th>
          <th class="num">Waiting</th>
          <th class="num">Given up</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in active" :key="one.id" data-test="webhook">
          <td>{{ one.url }}</td>
          <td class="num">{{ one.delivered }}</td>
          <td class="num">{{ one.waiting }}</td>
          <td class="num">{{ one.failed }}</td>
          <td class="num"><button class="act" @click="stop(one)">Stop</button></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="quiet">No address is told of anything.</p>
    <details v-if="data?.deliveries.length">
      <summary>The last {{ data.deliveries.length }} deliveries</summary>
      <table class="ledger">
        <thead>
          <tr>
            <th class="num">Event</th>
            <th>Kind</th>
            <th>Happened</th>
            <th class="num">Attempts</th>
            <th>How it went</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.deliveries" :key="one.id" data-test="delivery">
            <td class="num">{{ one.event }}</td>
            <td>{{ one.kind.replace('_', ' ') }}</td>
            <td>{{ dateTime(one.at) }}</td>
            <td class="num">{{ one.attempts }}</td>
            <td>
              <template v-if="one.delivered_at">delivered {{ dateTime(one.delivered_at) }}</template>
              <template v-else-if="one.next_at"
                >{{ one.last_error }} again {{ dateTime(one.next_at) }}</template
              >
              <template v-else>given up: {{ one.last_error }}</template>
            </td>
            <td class="num"><button class="act" @click="resent.mutate(one.id)">Send again</button></td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
h2 {
  margin-top: 26px;
}
</style>
