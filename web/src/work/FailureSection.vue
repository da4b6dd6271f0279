<script setup lang="ts">
import { computed, ref } from 'vue'
import { type WorkDetail } from '../common/api'
import { dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { removeFailure } from './changes'
import FailureForm from './FailureForm.vue'

const props = defineProps<{ work: WorkDetail }>()

type Failure = WorkDetail['failures'][number]
/** Id of the report that is changed, or that a new one is written. */
const editing = ref<number | 'new'>()
const open = computed(() => !props.work.is_over)
const asks = computed(
  () =>
    props.work.asks_for_failure || (props.work.kind.startsWith('corrective') && !props.work.failures.length),
)
const { mutate: takeBack, error } = useChange(removeFailure)
const turn = (id: number | 'new') => (editing.value = editing.value === id ? undefined : id)
const words = (failure: Failure) => [
  { term: 'Problem', value: failure.problem?.name ?? 'not given' },
  { term: 'Cause', value: failure.cause?.name ?? 'not given' },
  { term: 'Remedy', value: failure.remedy?.name ?? 'not given' },
  { term: 'Failed', value: `${failure.asset.name}, ${dateTime(failure.failed_at)}` },
  { term: 'Effect', value: failure.effect },
]
</script>

<template>
  <section data-test="failure">
    <h2>
      What failed
      <button v-if="open" class="act no-print" data-test="new-failure" @click="turn('new')">
        {{ work.failures.length ? 'Report another asset' : 'Report the failure' }}
      </button>
    </h2>
    <ProblemNote :error="error" />
    <div v-for="failure in work.failures" :key="failure.id" data-test="failure-report">
      <dl v-if="editing !== failure.id">
        <div v-for="{ term, value } in words(failure)" :key="term">
          <dt>{{ term }}</dt>
          <dd>{{ value }}</dd>
        </div>
        <div v-if="open || work.state === 'closed'" class="do no-print">
          <button class="act" data-test="edit-failure" @click="turn(failure.id)">
            {{ open ? 'Change' : 'Correct' }}
          </button>
          <button v-if="open" class="act" @click="takeBack({ number: work.number, id: failure.id })">
            Take back
          </button>
        </div>
      </dl>
      <FailureForm v-else :work="work" :failure="failure" @close="editing = undefined" />
    </div>
    <p v-if="!work.failures.length && editing !== 'new'" class="quiet">
      No failure is reported.<template v-if="asks"> This work can close once its problem is given.</template>
    </p>
    <FailureForm v-if="editing === 'new'" :work="work" @close="editing = undefined" />
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

.do {
  margin-left: auto;
}
</style>
