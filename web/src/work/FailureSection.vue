<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { answer, api, type WorkDetail } from '../common/api'
import { dateTime, fromLocal, toLocal } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import CodeChoice from './CodeChoice.vue'
import { useChange } from '../common/useChange'

const props = defineProps<{ work: WorkDetail }>()

const editing = ref(false)
const failure = computed(() => props.work.failure)
const given = reactive({
  codebook: failure.value?.codebook ?? props.work.codebook ?? '',
  problem: failure.value?.problem?.code ?? '',
  cause: failure.value?.cause?.code ?? '',
  remedy: failure.value?.remedy?.code ?? '',
  failed_at: toLocal(failure.value?.failed_at ?? props.work.raised_at),
  noticed: failure.value?.noticed ?? 'operation',
  effect: failure.value?.effect ?? 'critical',
})
const books = useQuery({
  queryKey: ['codebooks'],
  queryFn: () => answer(api.GET('/api/v1/codebooks')),
  enabled: editing,
})
const book = useQuery({
  queryKey: ['codebook', () => given.codebook],
  queryFn: () => answer(api.GET('/api/v1/codebooks/{code}', { params: { path: { code: given.codebook } } })),
  enabled: () => editing.value && given.codebook !== '',
})

const { mutate, error, isPending } = useChange(
  () =>
    answer(
      api.PUT('/api/v1/work-orders/{number}/failure', {
        params: { path: { number: props.work.number } },
        body: {
          codebook: given.codebook || undefined,
          problem: given.problem || undefined,
          cause: given.cause || undefined,
          remedy: given.remedy || undefined,
          failed_at: fromLocal(given.failed_at) ?? '',
          noticed: given.noticed,
          effect: given.effect,
        },
      }),
    ),
  () => (editing.value = false),
)
const corrective = computed(() => props.work.kind.startsWith('corrective'))
</script>

<template>
  <section data-test="failure">
    <h2>
      What failed
      <button
        v-if="!['closed', 'dropped'].includes(work.state)"
        class="act no-print"
        data-test="edit-failure"
        @click="editing = !editing"
      >
        {{ failure ? 'Change the report' : 'Report the failure' }}
      </button>
    </h2>
    <dl v-if="failure && !editing">
      <div>
        <dt>Problem</dt>
        <dd>{{ failure.problem?.name ?? 'not given' }}</dd>
      </div>
      <div>
        <dt>Cause</dt>
        <dd>{{ failure.cause?.name ?? 'not given' }}</dd>
      </div>
      <div>
        <dt>Remedy</dt>
        <dd>{{ failure.remedy?.name ?? 'not given' }}</dd>
      </div>
      <div>
        <dt>Failed</dt>
        <dd>{{ failure.asset.name }}, {{ dateTime(failure.failed_at) }}</dd>
      </div>
      <div>
        <dt>Effect</dt>
        <dd>{{ failure.effect }}</dd>
      </div>
    </dl>
    <p v-else-if="!editing" class="quiet">
      No failure is reported.<template v-if="corrective">
        Corrective work can close once its problem is given.</template
      >
    </p>
    <form v-if="editing" @submit.prevent="mutate()" @keydown.esc="editing = false">
      <label v-if="!work.codebook || failure" class="field">
        Codebook
        <select v-model="given.codebook" class="line" name="codebook">
          <option v-for="one in books.data.value" :key="one.code" :value="one.code">{{ one.name }}</option>
        </select>
      </label>
      <CodeChoice
        v-if="book.data.value"
        v-model:problem="given.problem"
        v-model:cause="given.cause"
        v-model:remedy="given.remedy"
        :book="book.data.value"
      />
      <div class="row">
        <label class="field"
          >Failed at <input v-model="given.failed_at" class="line" type="datetime-local" name="failed-at"
        /></label>
        <label class="field">
          Effect
          <select v-model="given.effect" class="line" name="effect">
            <option value="critical">critical: its job stopped</option>
            <option value="degraded">degraded: its job went on, worse</option>
            <option value="incipient">incipient: not touched yet</option>
          </select>
        </label>
        <label class="field">
          Noticed
          <select v-model="given.noticed" class="line" name="noticed">
            <option value="operation">in operation</option>
            <option value="inspection">at an inspection</option>
            <option value="condition_monitoring">by a meter</option>
            <option value="maintenance">during other work</option>
            <option value="chance">by chance</option>
          </select>
        </label>
        <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-failure"
          >Keep the report</ElButton
        >
      </div>
      <ProblemNote :error="error" />
    </form>
  </section>
</template>

<style scoped>
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 30px;
  margin: 8px 0 0;
}

dt {
  font-size: 13px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

form {
  display: grid;
  gap: 12px;
  padding: 12px;
  margin-top: 8px;
  background: var(--paper-2);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
}
</style>
