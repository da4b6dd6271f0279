<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import { date } from '../common/format'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { renewFeed, takeFeedAway } from './changes'
import { feeds } from './queries'

/** Addresses under which a calendar program reads one's work, or a crew's. */
type Row = Schemas['FeedRow']
// Who may not look at work has none.
const { data } = useQuery(feeds())
/** The address that was made last, and of what. It is shown this once. */
const made = ref<{ of: string; address: string }>()
const nameOf = (row: Row) => (row.crew ? `Work of ${row.name}` : 'Your own work')
let asked: Row | undefined
const renewed = useChange(renewFeed, ({ path }) => {
  made.value = { of: asked ? nameOf(asked) : '', address: `${window.location.origin}${path}` }
})
const taken = useChange(takeFeedAway, () => (made.value = undefined))
async function renew(row: Row) {
  const goesOn =
    !row.made_at ||
    (await askToEnd('Renew', 'the address', 'Calendars that read the old one get nothing any more.'))
  if (!goesOn) return
  asked = row
  renewed.mutate({ crew: row.crew })
}
const copy = () => made.value && navigator.clipboard?.writeText(made.value.address)
const columns: LedgerColumn<Row>[] = [
  { key: 'what', name: 'What', text: nameOf, lead: true },
  {
    key: 'since',
    name: 'Address',
    text: (row) => (row.made_at ? `since ${date(row.made_at)}` : 'none'),
    by: (row) => row.made_at ?? '',
  },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section v-if="data" aria-label="Calendars">
    <h2 class="ruled">In your calendar</h2>
    <p class="quiet">
      A calendar program shows what is scheduled, and for a crew the upkeep of the year ahead. Whoever has an
      address sees what you see: keep it to yourself.
    </p>
    <p v-if="made" v-arrive class="inset" data-test="feed-made">
      {{ made.of }}: <code>{{ made.address }}</code> <button class="act" @click="copy()">Copy</button><br />
      <span class="quiet small"
        >It is shown this once. Give it to your calendar program as one to subscribe to.</span
      >
    </p>
    <LedgerTable
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.crew ?? ''"
      label="Calendars"
      test="feed"
    >
      <template #do="{ row }">
        <span class="deeds">
          <button class="act" :data-test="`feed-${row.crew ?? 'own'}`" @click="renew(row)">
            {{ row.made_at ? 'Renew' : 'Make an address' }}
          </button>
          <button v-if="row.made_at" class="act" @click="taken.mutate({ crew: row.crew })">Take away</button>
        </span>
      </template>
    </LedgerTable>
    <ProblemNote :error="renewed.error.value ?? taken.error.value" />
  </section>
</template>

<style scoped>
.deeds {
  display: inline-flex;
  gap: 14px;
}

code {
  overflow-wrap: anywhere;
}
</style>
