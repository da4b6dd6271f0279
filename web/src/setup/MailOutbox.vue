<script setup lang="ts">
import { outbox } from './queries/outside'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { whole, dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'

const { to } = useAddress()
const waits = (message: { sent_at?: string | null; failed?: string | null }) =>
  !message.sent_at && !message.failed
const { data, error, fetchNextPage, hasNextPage } = useInfiniteQuery({
  ...outbox(),
  // What waits is written within a second or two.
  refetchInterval: ({ state }) =>
    state.data?.pages.some((page) => page.messages.some(waits)) ? 2_000 : false,
})
const messages = computed(() => data.value?.pages.flatMap((page) => page.messages) ?? [])
const total = computed(() => data.value?.pages[0]?.total ?? 0)
const open = ref<number>()
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
    <table v-if="messages.length" class="ledger">
      <thead>
        <tr>
          <th>Written</th>
          <th>To</th>
          <th>Subject</th>
          <th>Work</th>
          <th>File</th>
        </tr>
      </thead>
      <tbody v-for="message in messages" :key="message.id">
        <tr data-test="message">
          <td>{{ dateTime(message.at) }}</td>
          <td :title="message.mail ?? 'no address; read here'">{{ message.person_name }}</td>
          <td>
            <button
              class="plain subject"
              :aria-expanded="open === message.id"
              @click="open = open === message.id ? undefined : message.id"
            >
              {{ message.subject }}
            </button>
          </td>
          <td>
            <RouterLink v-if="message.work_order" :to="to(`/work/${message.work_order}`)" class="in-text">{{
              message.work_order
            }}</RouterLink>
          </td>
          <td v-if="message.failed" class="wrong small" data-test="message-failed">{{ message.failed }}</td>
          <td v-else class="quiet small">{{ message.file ?? 'waiting' }}</td>
        </tr>
        <tr v-if="open === message.id">
          <td colspan="5">
            <pre data-test="message-body">{{ message.body }}</pre>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="quiet">Nobody was told anything yet. Name people in a rung’s response.</p>
    <p v-if="hasNextPage"><button class="act" @click="fetchNextPage()">Show more messages</button></p>
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
