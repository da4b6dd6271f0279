<script setup lang="ts">
import { masterRow } from './queries/master'
import { X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { type RouteLocationRaw, useRouter } from 'vue-router'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { saveRows } from './changes'
import AssetPlace from './AssetPlace.vue'
import FieldInput from './FieldInput.vue'
import PersonCode from './PersonCode.vue'
import PlanCycles from './PlanCycles.vue'
import RowHistory from './RowHistory.vue'
import { type Column, type Kind, type Values, tables } from './kinds'
import { offerUndo } from './undo'

const props = defineProps<{
  kind: Kind
  /** None for one to add. */
  code?: string
  columns: Column[]
  back: RouteLocationRaw
}>()
const router = useRouter()
const { scope, to } = useAddress()

/** What has dates of its own is changed below the form. */
const DATED = ['parent', 'parent_effect', 'calendar']
const fields = computed(() =>
  props.columns.filter((column) => {
    if (props.code === undefined) return column.listed && column.name !== 'old_codes'
    const dated = props.kind === 'assets' && DATED.includes(column.name)
    return !dated && column.name !== 'code' && column.name !== 'old_codes'
  }),
)

const { data, error: unread } = useQuery(() => ({
  ...masterRow(props.kind, props.code ?? ''),
  enabled: props.code !== undefined,
}))

const given = reactive<Values>({})
const touched = ref(false)
watch(
  [data, () => props.columns],
  () => {
    // What somebody is typing is not written over by what was read again.
    if (touched.value) return
    for (const column of props.columns) {
      const first = column.name === 'parent' || column.name === 'asset' ? scope.value : column.default
      given[column.name] = data.value?.[column.name] ?? (props.code === undefined ? first : '')
    }
  },
  { immediate: true },
)

const { mutate, error, problem, isPending } = useChange(saveRows, async (receipt) => {
  touched.value = false
  if (props.code !== undefined) offerUndo(props.kind, receipt)
  const code = sent.new_code || sent.code
  if (code !== props.code) await router.push(to(`/setup/${props.kind}/${code}`))
})
/** What went out last. */
let sent: Values = {}
function row() {
  const values: Values = {}
  const was: Values = {}
  for (const column of fields.value) {
    const now = given[column.name] ?? ''
    const before = data.value?.[column.name] ?? ''
    if (props.code === undefined || now !== before) {
      values[column.name] = now
      if (props.code !== undefined && column.listed) was[column.name] = before
    }
  }
  values.code = props.code ?? given.code?.trim() ?? ''
  sent = values
  return { kind: props.kind, rows: [{ values, was }], reason: '' }
}
</script>

<template>
  <article class="pane" :aria-label="code ?? `New ${tables[kind].one}`">
    <RouterLink :to="back" class="close" aria-label="Close" title="Close ( Esc )" data-close>
      <X :size="18" />
    </RouterLink>
    <p class="kicker">{{ tables[kind].one }}</p>
    <h1>{{ code === undefined ? `New ${tables[kind].one}` : (data?.name ?? code) }}</h1>
    <p v-if="code" class="quiet code">
      {{ code
      }}<template v-if="data?.old_codes">, before: {{ data.old_codes.replaceAll(' | ', ', ') }}</template>
      <RouterLink v-if="kind === 'meters'" :to="to(`/watch/${code}`)"> Open its trend and limits</RouterLink>
      <RouterLink v-if="kind === 'assets'" :to="to('/tally', { scope: code })"> Its tally</RouterLink>
    </p>
    <ProblemNote :error="unread" />
    <PlanCycles v-if="kind === 'upkeep-plans' && code && data" :code="code" />
    <AssetPlace v-if="kind === 'assets' && code && data" :code="code" />
    <p v-if="code && data === null" class="quiet">There is none of that code.</p>
    <form v-else class="fields" @submit.prevent="mutate(row)" @input="touched = true">
      <FieldInput
        v-for="column in fields"
        :key="column.name"
        v-model="given[column.name]!"
        :column="column"
        :wrong="problem?.of(column.name)"
      />
      <div class="end">
        <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-row">
          {{ code === undefined ? `Add ${tables[kind].one}` : 'Save' }}
        </ElButton>
        <ProblemNote :error="error" :shown="fields.map((column) => column.name)" />
      </div>
    </form>
    <PersonCode v-if="kind === 'people' && code && data" :code="code" :name="data.name ?? code" />
    <RowHistory v-if="code && data" :kind="kind" :code="code" />
  </article>
</template>

<style scoped>
.pane {
  position: relative;
  max-width: 860px;
}

.close {
  position: absolute;
  top: 0;
  right: 0;
  color: var(--ink);
}

.kicker {
  margin: 0 0 2px;
  font-size: 13px;
  font-weight: 600;
  color: var(--accent);
}

.code {
  margin: 3px 0 0;
}

.code a {
  margin-left: 14px;
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 12px 18px;
  align-items: start;
  margin-top: 16px;
}

.end {
  grid-column: 1 / -1;
}
</style>
