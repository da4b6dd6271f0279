<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { postReadings, type Receipt } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'

const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const file = ref<{ name: string; text: string }>()
const preview = ref<Receipt>()

const trial = useMutation({
  mutationFn: (chosen: { name: string; text: string }) => postReadings(chosen.text, chosen.name, true),
  onSuccess: (receipt) => (preview.value = receipt),
})
const keep = useMutation({
  mutationFn: (chosen: { name: string; text: string }) => postReadings(chosen.text, chosen.name, false),
  onSuccess(receipt) {
    ElMessage.success(
      `${receipt.accepted} readings kept, ${receipt.alarms.length} alarms, work orders: ${receipt.work_orders.join(', ') || 'none'}.`,
    )
    emit('close')
    return client.invalidateQueries()
  },
})

async function choose(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  preview.value = undefined
  file.value = { name: chosen.name, text: await chosen.text() }
  trial.mutate(file.value)
}

/** Refused rows shown; all of them can be saved. */
const MOST = 100
const lines = computed(() => file.value?.text.split(/\r?\n/) ?? [])
const refused = computed(() =>
  (preview.value?.refused ?? []).map((row) => ({
    ...row,
    line: row.index + 2,
    text: lines.value[row.index + 1] ?? '',
  })),
)
const refusedHref = computed(() => {
  const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`
  const rows = refused.value.map((row) => `${row.line},${quoted(row.text)},${quoted(row.reason)}`)
  return `data:text/csv;charset=utf-8,${encodeURIComponent(['line,row,reason', ...rows].join('\n'))}`
})
</script>

<template>
  <ElDialog :model-value="true" title="Import readings" width="720" @close="emit('close')">
    <p class="quiet">
      A CSV file whose first line names the columns <code>meter</code>, <code>at</code> and
      <code>value</code>; times with their offset, such as <code>2026-03-01T08:00:00Z</code>. Nothing is kept
      before you have seen what it does.
    </p>
    <input type="file" accept=".csv,text/csv" aria-label="CSV file" name="file" @change="choose" />
    <ProblemNote :error="trial.error.value ?? keep.error.value" />
    <p v-if="trial.isPending.value" class="quiet">Trying it out…</p>
    <template v-if="preview && file">
      <p class="sum" data-test="preview">
        <strong>{{ preview.accepted }}</strong> would be kept<template v-if="preview.late"
          >, {{ preview.late }} of them late</template
        ><template v-if="preview.quarantined">, {{ preview.quarantined }} of them in quarantine</template>;
        <strong>{{ preview.duplicates }}</strong> are there already;
        <strong :class="{ wrong: preview.refused.length }">{{ preview.refused.length }}</strong> refused. They
        would set off {{ preview.alarms.length }} {{ preview.alarms.length === 1 ? 'alarm' : 'alarms' }} and
        raise or join {{ preview.work_orders.length }} work
        {{ preview.work_orders.length === 1 ? 'order' : 'orders' }}.
      </p>
      <div v-if="refused.length" class="refused">
        <table class="ledger">
          <thead>
            <tr>
              <th class="num">Line</th>
              <th>Row</th>
              <th>Why it is refused</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in refused.slice(0, MOST)" :key="row.index" data-test="refused">
              <td class="num">{{ row.line }}</td>
              <td>
                <code>{{ row.text }}</code>
              </td>
              <td>{{ row.reason }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="refused.length">
        <a :href="refusedHref" download="refused.csv">Save the refused rows with their reasons</a>
        <span v-if="refused.length > MOST" class="quiet"> ({{ refused.length - MOST }} more than shown)</span>
      </p>
    </template>
    <template #footer>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton
        type="primary"
        :disabled="!preview?.accepted"
        :loading="keep.isPending.value"
        @click="file && keep.mutate(file)"
      >
        Keep {{ preview?.accepted ?? '' }} readings
      </ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.sum {
  margin: 14px 0 8px;
}

.refused {
  max-height: 260px;
  overflow: auto;
}

strong.wrong {
  font-size: inherit;
}

code {
  font-size: 13px;
  overflow-wrap: anywhere;
}
</style>
