<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import NumberField from '../common/fields/NumberField.vue'
import ReferenceField from '../common/fields/ReferenceField.vue'
import TextField from '../common/fields/TextField.vue'
import LedgerTable from '../common/ledger/LedgerTable.vue'
import type { LedgerColumn } from '../common/ledger/columns'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, ref, toRef } from 'vue'
import { type WorkDetail } from '../common/api'
import { date, money, onTheMinute } from '../common/format'
import { installation, now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { usePeople } from '../common/usePeople'
import { useChange } from '../common/change/useChange'
import { addEntry, reverseEntry } from './changes'
import { items, suppliers } from './queries/orders'

const props = defineProps<{ work: WorkDetail }>()

const kinds = { labour: 'Hours', material: 'Material', service: 'Service', tool: 'Tool' }
type Kind = keyof typeof kinds
/** What can be added here: hours have their place with time, as long as the work goes on. */
const added = computed(() =>
  (Object.keys(kinds) as Kind[]).filter(
    (kind) => kind !== 'labour' || props.work.is_over || !props.work.may_tick,
  ),
)
const adding = ref<Kind>()
const fresh = () => ({
  quantity: undefined as number | undefined,
  price: undefined as number | undefined,
  description: '',
  item: '',
  supplier: '',
  person: '',
  at: onTheMinute(now.value),
})
const given = reactive(fresh())
/** Names that were bought before, by what is typed so far. */
const isBought = computed(() => adding.value !== undefined && adding.value !== 'labour')
const itemLetters = refDebounced(toRef(given, 'item'), 150)
const supplierLetters = refDebounced(toRef(given, 'supplier'), 150)
const knownItems = useQuery(() => ({
  ...items(itemLetters.value),
  enabled: isBought.value,
  placeholderData: keepPreviousData,
}))
const knownSuppliers = useQuery(() => ({
  ...suppliers(supplierLetters.value),
  enabled: isBought.value,
  placeholderData: keepPreviousData,
}))
const named = (all?: string[]) => (all ?? []).map((code) => ({ code }))
const itemNames = computed(() => named(knownItems.data.value))
const supplierNames = computed(() => named(knownSuppliers.data.value))
const { people } = usePeople()
const technicians = computed(() => people.value.filter((one) => one.rate != null))

/** Shown in whole units of the currency, sent in minor ones. */
const minor = (price: number) => String(Number((price * 10 ** installation.value.minor_digits).toFixed(6)))

const { mutate, error, problem, isPending, reset } = useChange(addEntry, () => {
  adding.value = undefined
  Object.assign(given, fresh())
})
const entry = () => ({
  number: props.work.number,
  body: {
    kind: adding.value!,
    quantity: String(given.quantity),
    unit_price: given.price == null ? undefined : minor(given.price),
    person: adding.value === 'labour' && given.person ? given.person : undefined,
    description: given.description,
    ...(adding.value !== 'labour' && {
      item: given.item || undefined,
      supplier: given.supplier || undefined,
    }),
    at: given.at || undefined,
  },
})

const reversing = ref<number>()
const reason = ref('')
const reversal = useChange(reverseEntry, () => {
  reversing.value = undefined
  reason.value = ''
})

function open(kind: Kind) {
  reset()
  adding.value = adding.value === kind ? undefined : kind
}
const each = (price: string) => money(Number(price))

type Row = WorkDetail['entries'][number]
const columns: LedgerColumn<Row>[] = [
  { key: 'dated', name: 'Dated', text: (row) => date(row.at), by: (row) => row.at, nowrap: true },
  { key: 'what', name: 'What', by: (row) => kinds[row.kind], lead: true },
  { key: 'quantity', name: 'Quantity', by: (row) => Number(row.quantity), num: true },
  {
    key: 'each',
    name: 'Each',
    text: (row) => each(row.unit_price),
    by: (row) => Number(row.unit_price),
    num: true,
  },
  { key: 'amount', name: 'Amount', text: (row) => money(row.amount), by: (row) => row.amount, num: true },
  { key: 'do', name: 'Do', unseen: true, num: true, screenOnly: true },
]
</script>

<template>
  <section>
    <h2>
      What was spent
      <span class="sum" data-test="cost">{{ money(work.cost) }} {{ installation.currency }}</span>
    </h2>
    <p v-if="work.entries.length" class="quiet small split">
      {{ money(work.settled) }} settled, {{ money(work.provisional) }} provisional
    </p>
    <LedgerTable
      v-if="work.entries.length"
      :columns="columns"
      :rows="work.entries"
      :key-of="(row) => row.id"
      :row-class="(row) => ({ gone: row.reversed || row.reverses })"
      label="What was spent"
      test="entry"
    >
      <template #what="{ row }">
        {{ kinds[row.kind] }}<template v-if="row.person">, {{ row.person }}</template
        ><template v-if="row.description">: {{ row.description }}</template>
        <span v-if="row.supplier" class="quiet small">from {{ row.supplier }}</span>
        <span v-if="row.asset.code !== work.asset.code" class="quiet small">{{ row.asset.name }}</span>
        <span v-if="row.adjustment" class="quiet small">adjustment after closing</span>
        <span v-if="row.reverses" class="quiet small">takes back an entry</span>
      </template>
      <template #quantity="{ row }"
        >{{ row.quantity }}<template v-if="row.kind === 'labour'"> h</template></template
      >
      <template #do="{ row }">
        <button
          v-if="!row.reversed && !row.reverses"
          class="act small"
          @click="reversing = reversing === row.id ? undefined : row.id"
        >
          Take back
        </button>
      </template>
    </LedgerTable>
    <p v-else class="quiet">Nothing has been reported yet.</p>
    <form
      v-if="reversing"
      v-arrive
      class="inset"
      @submit.prevent="reversal.mutate({ number: work.number, id: reversing, reason })"
      @keydown.esc.stop="reversing = undefined"
    >
      <TextField v-model="reason" class="wide" label="Why the entry is taken back" />
      <ElButton native-type="submit">Enter the reversal</ElButton>
      <ProblemNote :error="reversal.error.value" />
    </form>
    <div class="adds no-print">
      <button v-for="kind in added" :key="kind" class="act" :data-test="`add-${kind}`" @click="open(kind)">
        Add {{ kinds[kind].toLowerCase() }}
      </button>
    </div>
    <form
      v-if="adding"
      v-arrive
      class="inset"
      @submit.prevent="mutate(entry)"
      @keydown.esc.stop="adding = undefined"
    >
      <ChoiceField v-if="adding === 'labour'" v-model="given.person" label="Person" name="person">
        <option value="">who is acting</option>
        <option v-for="one in technicians" :key="one.code" :value="one.code">{{ one.name }}</option>
      </ChoiceField>
      <template v-else>
        <TextField v-model="given.description" class="wide" label="What it was" name="description" />
        <ReferenceField
          v-model="given.item"
          label="Item, as it is bought"
          name="item"
          :choices="itemNames"
          :wrong="problem?.of('item')"
        />
        <ReferenceField
          v-model="given.supplier"
          label="Supplier"
          name="supplier"
          :choices="supplierNames"
          :wrong="problem?.of('supplier')"
        />
      </template>
      <NumberField
        v-model="given.quantity"
        class="narrow"
        :label="adding === 'labour' ? 'Hours' : 'Quantity'"
        name="quantity"
        required
        :wrong="problem?.of('quantity')"
      />
      <NumberField
        v-model="given.price"
        class="narrow"
        :label="adding === 'labour' ? 'Rate, if another' : 'Price each'"
        name="price"
        :required="adding !== 'labour'"
      />
      <InstantField v-model="given.at" label="On" name="entry-at" />
      <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-entry">
        Add {{ kinds[adding].toLowerCase() }}
      </ElButton>
      <ProblemNote :error="error" />
    </form>
  </section>
</template>

<style scoped>
.sum {
  margin-left: auto;
  font-variant-numeric: tabular-nums lining-nums;
}

.split {
  text-align: right;
  margin: 4px 8px 0 0;
}

:deep(.gone) {
  color: var(--ink-3);
}

.adds {
  display: flex;
  gap: 18px;
  margin-top: 8px;
}

.small.act {
  padding: 0;
}
</style>
