<script setup lang="ts">
import { answer, api, type LadderView } from '../common/api'
import { date } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/useChange'
import { usePeople } from '../common/usePeople'
import ChangeLines from './ChangeLines.vue'

const props = defineProps<{
  /** Code. */
  meter: string
  proposed: NonNullable<LadderView['proposed']>
}>()
const { acting } = usePeople()
const path = () => ({ path: { code: props.meter } })
const approve = useChange(() => answer(api.POST('/api/v1/meters/{code}/ladder/approve', { params: path() })))
const turnDown = useChange(() =>
  answer(api.DELETE('/api/v1/meters/{code}/ladder/proposed', { params: path() })),
)
</script>

<template>
  <section aria-label="Waits for a second engineer" data-test="proposed-version">
    <h3>Waits for a second engineer</h3>
    <p>
      {{ proposed.reason }} <span class="quiet small">{{ proposed.by_name }}, {{ date(proposed.at) }}</span>
    </p>
    <ChangeLines :changes="proposed.changes" class="small" />
    <ProblemNote :error="approve.error.value ?? turnDown.error.value" />
    <p class="buttons">
      <ElButton
        v-if="acting !== proposed.by"
        type="primary"
        data-test="approve"
        :loading="approve.isPending.value"
        @click="approve.mutate()"
        >Approve</ElButton
      >
      <button type="button" class="act" @click="turnDown.mutate()">
        {{ acting === proposed.by ? 'Take back' : 'Turn down' }}
      </button>
    </p>
  </section>
</template>

<style scoped>
section {
  margin-top: 14px;
  padding: 12px;
  background: var(--paper-2);
}

h3 {
  margin: 0 0 4px;
  font-size: 15px;
}

p {
  margin: 4px 0;
}

.buttons {
  display: flex;
  gap: 16px;
}
</style>
