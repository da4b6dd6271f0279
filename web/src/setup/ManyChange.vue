<script setup lang="ts">
import { useMutation } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { Problem, answer, api } from '../common/api'
import { useChange } from '../common/change/useChange'
import { saveRows } from './changes'
import ProblemNote from '../common/ProblemNote.vue'
import FieldInput from './FieldInput.vue'
import ReceiptTable from './ReceiptTable.vue'
import { type Column, type Kind, type MasterReceipt, type Values, tables } from './kinds'
import { offerUndo } from './undo'

const props = defineProps<{
  kind: Kind
  columns: Column[]
  /** The selected ones, as they are now. */
  rows: Values[]
}>()
const emit = defineEmits<{ done: [] }>()
const fields = computed(() => props.columns.filter((column) => column.many))
const field = ref('')
const value = ref('')
const preview = ref<MasterReceipt>()
const column = computed(() => fields.value.find((one) => one.name === field.value))
watch(field, () => (value.value = ''))
watch([field, value, () => props.rows], () => (preview.value = undefined))

const noun = computed(() =>
  props.rows.length === 1 ? tables[props.kind].one : tables[props.kind].many.toLowerCase(),
)

function changed() {
  const chosen = column.value
  if (!chosen) throw new Problem(0, 'Choose a field first.', [])
  const rows = props.rows.map((row) => ({
    values: { code: row.code ?? '', [chosen.name]: value.value },
    was: { [chosen.name]: row[chosen.name] ?? '' },
  }))
  return { kind: props.kind, rows, reason: '' }
}
function tried() {
  const { kind, ...body } = changed()
  return answer(
    api.POST('/api/v1/master/{kind}', { params: { path: { kind }, query: { dry_run: true } }, body }),
  )
}

const trial = useMutation({
  mutationFn: () => Promise.resolve().then(tried),
  onSuccess: (receipt) => (preview.value = receipt),
})
const keep = useChange(saveRows, (receipt) => {
  offerUndo(props.kind, receipt)
  emit('done')
})
</script>

<template>
  <form v-arrive class="inset many" data-test="many" @submit.prevent="trial.mutate()">
    <strong>{{ rows.length }} {{ noun }}:</strong>
    <label class="field">
      <span>Field</span>
      <select v-model="field" class="line" name="many-field">
        <option v-for="one in fields" :key="one.name" :value="one.name">{{ one.label }}</option>
      </select>
    </label>
    <FieldInput v-if="column" :key="column.name" v-model="value" :column="column" class="wide" />
    <ElButton native-type="submit" :disabled="!column" :loading="trial.isPending.value"
      >Show what changes</ElButton
    >
    <button type="button" class="act" @click="emit('done')">Select none</button>
    <ProblemNote :error="trial.error.value ?? keep.error.value" />
    <div v-if="preview" class="preview" data-test="many-preview">
      <p>
        <strong>{{ preview.changed }}</strong> would change, {{ preview.unchanged }} have it already<template
          v-if="preview.refused"
          >, <strong class="wrong">{{ preview.refused }} can’t</strong></template
        >.
        <template v-if="preview.also_added.length">
          Also added: {{ preview.also_added.join(', ') }}.</template
        >
      </p>
      <ReceiptTable :receipt="preview" />
      <ElButton
        type="primary"
        :disabled="!preview.changed || preview.refused > 0"
        :loading="keep.isPending.value"
        data-test="many-keep"
        @click="keep.mutate(changed)"
      >
        Change {{ preview.changed }}
      </ElButton>
    </div>
  </form>
</template>

<style scoped>
.many {
  margin: 0 0 12px;
}

.many > strong {
  padding-bottom: 7px;
}

.preview {
  flex-basis: 100%;
}

.preview p {
  margin: 4px 0 8px;
}
</style>
