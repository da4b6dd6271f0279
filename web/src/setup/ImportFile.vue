<script setup lang="ts">
import { whole as count } from '../common/format'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { useQueryClient } from '@tanstack/vue-query'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../common/api'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import ReceiptTable from './ReceiptTable.vue'
import type { FileKind, ImportReceipt } from './kinds'

const props = defineProps<{ kind: FileKind; name: string }>()
const client = useQueryClient()
const file = ref<File>()
const zone = ref(installation.value.time_zone)
const zones = Intl.supportedValuesOf('timeZone')
const receipt = ref<ImportReceipt>()
const error = ref<unknown>()
/** The import under way: its name with the server, and how far it is. */
const job = ref('')
const progress = ref({ done: 0, all: 0 })
const trying = ref(false)

const mediaTypes: Record<string, string> = {
  json: 'application/json',
  ndjson: 'application/x-ndjson',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
}
const accept = '.csv,.xlsx,.json,.ndjson,text/csv'

async function send(dryRun: boolean, report = false): Promise<Response> {
  const chosen = file.value
  if (!chosen) throw new Error('no file is chosen')
  const ending = chosen.name.split('.').at(-1)?.toLowerCase() ?? ''
  const query = new URLSearchParams({ dry_run: String(dryRun), name: chosen.name, time_zone: zone.value })
  if (job.value) query.set('job', job.value)
  const headers: Record<string, string> = { 'content-type': mediaTypes[ending] ?? 'text/csv' }
  if (report) headers.accept = 'text/csv'
  return fetch(`/api/v1/import/${props.kind}?${query}`, { method: 'POST', headers, body: chosen })
}

async function run(dryRun: boolean): Promise<ImportReceipt | undefined> {
  job.value = crypto.randomUUID()
  trying.value = dryRun
  progress.value = { done: 0, all: 0 }
  error.value = undefined
  try {
    return await answer<ImportReceipt>(
      send(dryRun).then(async (response) => {
        const body = await response.json()
        return response.ok ? { data: body, response } : { error: body, response }
      }),
    )
  } catch (problem) {
    error.value = problem
    return undefined
  } finally {
    job.value = ''
  }
}

useIntervalFn(async () => {
  if (!job.value) return
  const { data } = await api.GET('/api/v1/imports/{job}', { params: { path: { job: job.value } } })
  if (data) progress.value = data
}, 250)
const share = computed(() =>
  progress.value.all ? Math.round((progress.value.done / progress.value.all) * 100) : 0,
)
const cancel = () => api.DELETE('/api/v1/imports/{job}', { params: { path: { job: job.value } } })

async function tryOut() {
  receipt.value = undefined
  if (file.value) receipt.value = await run(true)
}
function choose(event: Event) {
  file.value = (event.target as HTMLInputElement).files?.[0]
  return tryOut()
}
watch(zone, () => file.value && tryOut())

const good = computed(() => (receipt.value ? receipt.value.added + receipt.value.changed : 0))
async function keep() {
  const kept = await run(false)
  if (!kept) return
  const sums = `${kept.added} added, ${kept.changed} changed${kept.refused ? `, ${kept.refused} refused` : ''}.`
  if (!kept.stopped) {
    ElMessage.success(sums)
  } else {
    ElMessage.warning({
      message: `Stopped after ${count(kept.stopped.done)} of ${count(kept.stopped.all)} rows: ${sums} The same file goes on from there.`,
      duration: 0,
      showClose: true,
    })
  }
  receipt.value = undefined
  file.value = undefined
  await client.invalidateQueries()
}

/** Every line with what becomes of it, as a file. */
async function report() {
  const response = await send(true, true)
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await response.blob())
  link.download = `${props.kind}-line-by-line.csv`
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>

<template>
  <section class="import" data-test="import">
    <h1>Import {{ name.toLowerCase() }}</h1>
    <div class="row">
      <label class="field">
        File
        <input
          :key="kind + String(file === undefined)"
          type="file"
          name="file"
          :accept="accept"
          @change="choose"
        />
      </label>
      <label class="field">
        Time zone of times without an offset
        <input v-model.lazy="zone" class="line" name="time-zone" list="file-zones" />
        <datalist id="file-zones"><option v-for="one in zones" :key="one" :value="one" /></datalist>
      </label>
    </div>
    <div v-if="job" class="progress" role="status">
      <progress :value="share" max="100" :aria-label="trying ? 'Trying it out' : 'Importing'" />
      {{ trying ? 'Trying it out' : 'Importing' }}: {{ count(progress.done) }} of {{ count(progress.all) }}
      <button class="act" @click="cancel()">Cancel</button>
    </div>
    <ProblemNote :error="error" />
    <template v-if="receipt && !job">
      <p class="sum" data-test="import-sum">
        {{ count(receipt.rows) }} {{ receipt.rows === 1 ? 'row' : 'rows' }}:
        <strong>{{ count(receipt.added) }}</strong> new, <strong>{{ count(receipt.changed) }}</strong> to
        change, {{ count(receipt.unchanged) }} as they are,
        <strong :class="{ wrong: receipt.refused }">{{ count(receipt.refused) }} refused</strong>.
        <template v-if="receipt.readings">
          They would set off {{ count(receipt.readings.alarms) }}
          {{ receipt.readings.alarms === 1 ? 'alarm' : 'alarms' }} and raise or join
          {{ receipt.readings.work_orders.length }} work
          {{ receipt.readings.work_orders.length === 1 ? 'order' : 'orders' }}.
        </template>
        <template v-if="receipt.also_added.length">
          Also added: {{ receipt.also_added.join(', ') }}.</template
        >
        <template v-if="receipt.ignored_columns.length">
          Columns that mean nothing here: {{ receipt.ignored_columns.join(', ') }}.
        </template>
        <template v-if="receipt.given_up"> So many rows are wrong that the rest was not read.</template>
        <span v-if="receipt.file" class="quiet">
          Read as {{ receipt.file.encoding }} with “{{ receipt.file.delimiter }}” between the cells.
        </span>
      </p>
      <ReceiptTable :receipt="receipt" lines />
      <ElButton type="primary" :disabled="!good" data-test="import-keep" @click="keep()">
        Keep {{ count(good) }} {{ good === 1 ? 'row' : 'rows' }}
      </ElButton>
      <button class="act" @click="report()">Save all lines with what becomes of them</button>
      <button class="act" @click="tryOut()">Try again</button>
    </template>
  </section>
</template>

<style scoped>
.import {
  max-width: 1020px;
  margin-bottom: 30px;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 18px;
  align-items: end;
  margin: 10px 0;
}

.sum {
  margin: 12px 0 8px;
}

strong.wrong {
  font-size: inherit;
}

.act {
  margin-left: 18px;
}

progress {
  width: 260px;
  accent-color: var(--accent);
  vertical-align: middle;
  margin-right: 10px;
}
</style>
