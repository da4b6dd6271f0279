<script setup lang="ts">
import { computed, reactive } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import type { Schemas, WorkDetail } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import InstantField from '../common/fields/InstantField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { addDowntime, correctDowntime } from './changes'
import { oddDowntime } from './queries/orders'

type Row = WorkDetail['downtime'][number]
/** Downtime that is entered, or corrected with a reason; what is odd about it is questioned while it is typed. */
const props = defineProps<{
  work: WorkDetail
  /** The one that is corrected; a new one without it. */
  row?: Row
}>()
const emit = defineEmits<{ close: [] }>()
const { work, row } = props
const given = reactive({
  kind: row?.kind ?? ('unplanned' as Row['kind']),
  start: row?.start ?? work.raised_at,
  end: row?.end ?? '',
  slowed: row?.slowed == null ? null : row.slowed * 100,
  note: row?.note ?? '',
  reason: '',
})
const close = () => emit('close')
const adding = useChange(addDowntime, close)
const correcting = useChange(correctDowntime, close)
const sent = row ? correcting : adding
const wrong = (field: string) => sent.problem.value?.of(field)
const share = computed(() => (given.slowed == null ? undefined : given.slowed / 100))
function save() {
  const { kind, start, note, reason } = given
  const end = given.end || undefined
  if (!row) {
    adding.mutate({ number: work.number, body: { kind, start, end, note, slowed: share.value } })
    return
  }
  const was = {
    kind: row.kind,
    start: row.start,
    end: row.end ?? undefined,
    share: row.slowed ?? undefined,
    note: row.note,
    reason: 'taken back',
  }
  correcting.mutate({ id: row.id, body: { kind, start, end, share: share.value, note, reason }, was })
}
const { data } = useQuery(() => ({
  ...oddDowntime({
    asset: row?.asset.code ?? work.asset.code,
    work: work.number,
    start: given.start,
    end: given.end || undefined,
    corrected: row?.id,
  }),
  enabled: given.start !== '',
}))
const questions: Record<Schemas['OddDowntime'], string> = {
  long: 'That is longer than a week.',
  before_the_order: 'It begins more than a day before the order was raised.',
  longest: 'That is longer than any downtime of this asset before.',
}
</script>

<template>
  <form v-arrive class="inset" @submit.prevent="save" @keydown.esc.stop="close">
    <ChoiceField v-model="given.kind" label="Kind" name="downtime-kind">
      <option value="unplanned">unplanned</option>
      <option value="planned">planned</option>
      <option value="external">external</option>
    </ChoiceField>
    <InstantField v-model="given.start" label="From" name="start" required :wrong="wrong('start')" />
    <InstantField v-model="given.end" label="To, or open" name="end" :wrong="wrong('end')" />
    <NumberField
      v-model="given.slowed"
      class="narrow"
      label="Slowed by %, if it ran on"
      name="slowed"
      :wrong="wrong(row ? 'share' : 'slowed')"
    />
    <TextField v-model="given.note" class="wide" label="Note" name="downtime-note" />
    <TextField
      v-if="row"
      v-model="given.reason"
      class="wide"
      label="Why it is corrected"
      name="downtime-reason"
      needed
      :wrong="wrong('reason')"
    />
    <p v-if="data?.odd.length" class="odd" role="status" data-test="odd-downtime">
      <template v-for="one in data.odd" :key="one">{{ questions[one] }} </template>Is it right?
    </p>
    <ElButton type="primary" native-type="submit" :loading="sent.isPending.value" data-test="save-downtime">
      {{ row ? 'Save the correction' : 'Add downtime' }}
    </ElButton>
    <ProblemNote :error="sent.error.value" />
  </form>
</template>

<style scoped>
.odd {
  flex-basis: 100%;
  margin: 0;
  color: var(--worse);
}
</style>
