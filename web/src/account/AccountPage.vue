<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import { ago, dateTime } from '../common/format'
import { now } from '../common/installation'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import PasswordField from '../common/fields/PasswordField.vue'
import { session } from '../common/session/session'
import FeedSection from './FeedSection.vue'
import PasskeySection from './PasskeySection.vue'
import PinSection from './PinSection.vue'
import { changePassword, endOthers, endSession } from './changes'
import { sessions } from './queries'

type Row = Schemas['SessionRow']

const { data, error } = useQuery({ ...sessions(), refetchInterval: 60_000 })
const given = reactive({ password: '', new_password: '' })
const isChanged = ref(false)
const changed = useChange(changePassword, () => {
  Object.assign(given, { password: '', new_password: '' })
  isChanged.value = true
})
const ended = useChange(endSession)
const others = useChange(endOthers)
async function endAll() {
  if (
    await askToEnd('End', 'all your other sessions', 'Whoever is signed in as you elsewhere is out at once.')
  )
    others.mutate(null)
}
const count = computed(() => data.value?.sessions.length ?? 0)
const says = computed(() =>
  count.value === 1
    ? 'You are signed in here and nowhere else.'
    : `You are signed in in ${count.value} places.`,
)
const reaches = computed(() => {
  const given = session.value?.scope ?? []
  if (!given.length) return 'You see the whole plant, as far as your role goes.'
  return `You see and act on what stands below ${given.map((asset) => asset.name).join(' and ')}, and nothing else.`
})
const columns: LedgerColumn<Row>[] = [
  { key: 'device', name: 'Where', text: (row) => (row.is_this ? 'Here' : row.device), lead: true },
  { key: 'address', name: 'Address', text: (row) => row.address },
  { key: 'begun', name: 'Since', text: (row) => dateTime(row.begun_at), by: (row) => row.begun_at },
  { key: 'seen', name: 'Last used', text: (row) => ago(row.seen_at, now.value), by: (row) => row.seen_at },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <h1>{{ session?.signed_in?.name }}</h1>
  <p class="quiet">{{ session?.signed_in?.code }} · {{ session?.signed_in?.role }}</p>
  <p data-test="scope">{{ reaches }}</p>
  <section aria-label="Sessions">
    <h2 class="ruled">
      Where you are signed in
      <button v-if="count > 1" class="act" data-test="end-others" @click="endAll()">End all others</button>
    </h2>
    <template v-if="data">
      <p class="verdict" data-test="sessions-stand">{{ says }}</p>
      <LedgerTable
        :columns="columns"
        :rows="data.sessions"
        :key-of="(row) => row.id"
        label="Sessions"
        test="session"
      >
        <template #do="{ row }">
          <button v-if="!row.is_this" class="act" @click="ended.mutate(row.id)">End it</button>
        </template>
      </LedgerTable>
      <p class="quiet small">
        A session ends {{ data.idle_hours }} hours after it was last used, and after
        {{ data.longest_days }} days in any case.
      </p>
    </template>
    <ProblemNote :error="error ?? ended.error.value ?? others.error.value" />
  </section>
  <PasskeySection v-if="!session?.demo.length" />
  <PinSection v-if="data?.may_have_pin && !session?.demo.length" :counts="data.pin_counts" />
  <section v-if="!session?.demo.length" aria-label="Password">
    <h2 class="ruled">Your password</h2>
    <form @submit.prevent="changed.mutate({ ...given })">
      <PasswordField
        v-model="given.password"
        label="As it is"
        name="password"
        autocomplete="current-password"
        :wrong="changed.problem.value?.of('password')"
      />
      <PasswordField
        v-model="given.new_password"
        label="As it is to be"
        hint="12 characters or more; several words are good"
        name="new-password"
        autocomplete="new-password"
        :wrong="changed.problem.value?.of('new_password')"
      />
      <p>
        <ElButton
          type="primary"
          native-type="submit"
          :loading="changed.isPending.value"
          data-test="change-password"
        >
          Change it
        </ElButton>
        <span v-if="isChanged" role="status">It is changed. All your other sessions have ended.</span>
      </p>
      <ProblemNote :error="changed.error.value" :shown="['password', 'new_password']" />
    </form>
  </section>
  <FeedSection />
</template>

<style scoped>
section {
  max-width: 900px;
  margin-top: 26px;
}

form {
  display: grid;
  gap: 14px;
  max-width: 430px;
  margin-top: 14px;
}

p [role='status'] {
  margin-left: 14px;
}
</style>
