<script setup lang="ts">
import TextField from '../common/fields/TextField.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { tags } from './queries/outside'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { plain, unit } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'
import { removeTag, setTag } from './changes'

const { to } = useAddress()
const { data, error } = useQuery(tags())
const adding = ref(false)
const form = ref({ tag: '', meter: '', unit: '' })
const set = useChange(setTag, () => (form.value = { tag: '', meter: '', unit: '' }))
const tagged = () => ({ ...form.value, unit: form.value.unit || undefined })
const removed = useChange(removeTag)
const fields = [
  { key: 'tag', words: 'Outside name' },
  { key: 'meter', words: 'Code of the meter' },
  { key: 'unit', words: 'Unit that comes in (UCUM)' },
] as const
async function remove(tag: string) {
  const follows = 'Readings that come under this name are refused from then on.'
  if (await askToEnd('Remove', `the tag ${tag}`, follows)) removed.mutate(tag)
}

type Tag = NonNullable<typeof data.value>[number]
const columns: LedgerColumn<Tag>[] = [
  { key: 'tag', name: 'Tag', text: (row) => row.tag, lead: true },
  { key: 'meter', name: 'Meter', by: (row) => `${row.asset.name}: ${row.meter_name}` },
  { key: 'comes', name: 'Comes in as', text: (row) => unit(row.unit) },
  { key: 'becomes', name: 'Becomes', by: null },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section aria-label="Tags">
    <h2 class="ruled">Tags <button class="act" @click="adding = !adding">Add a tag</button></h2>
    <p class="quiet small">
      Names that gateways have for meters. A reading may come under its tag, in its own unit: it is turned
      into the meter’s.
    </p>
    <form v-if="adding" v-arrive class="inset" aria-label="Tag" @submit.prevent="set.mutate(tagged)">
      <TextField
        v-for="{ key, words } in fields"
        :key="key"
        v-model="form[key]"
        :label="words"
        :wrong="set.problem.value?.of(key)"
        :name="key"
        :required="key !== 'unit'"
      />
      <ElButton type="primary" native-type="submit" :loading="set.isPending.value">Keep</ElButton>
      <ProblemNote :error="set.error.value" :shown="['tag', 'meter', 'unit']" />
    </form>
    <ProblemNote :error="error ?? removed.error.value" />
    <LedgerTable
      v-if="data?.length"
      :columns="columns"
      :rows="data"
      :key-of="(row) => row.tag"
      label="Tags"
      test="tag"
    >
      <template #meter="{ row }">
        <RouterLink :to="to(`/watch/${row.meter}`)" data-row
          >{{ row.asset.name }}: {{ row.meter_name }}</RouterLink
        >
      </template>
      <template #becomes="{ row }">
        <template v-if="row.unit !== row.meter_unit">
          × {{ plain(row.factor)
          }}<template v-if="row.offset">
            {{ row.offset < 0 ? '−' : '+' }} {{ plain(Math.abs(row.offset)) }}</template
          >
        </template>
        {{ unit(row.meter_unit) }}
      </template>
      <template #do="{ row }"><button class="act" @click="remove(row.tag)">Remove</button></template>
    </LedgerTable>
    <p v-else-if="data" class="quiet">Gateways use the meters’ own codes.</p>
  </section>
</template>

<style scoped>
h2 {
  margin-top: 26px;
}
</style>
