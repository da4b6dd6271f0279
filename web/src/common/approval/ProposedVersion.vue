<script setup lang="ts" generic="Of">
import { type LadderView } from '../api'
import { date } from '../format'
import ProblemNote from '../ProblemNote.vue'
import type { ChangeKind } from '../change/registry'
import { useChange } from '../change/useChange'
import { usePeople } from '../usePeople'
import ChangeLines from './ChangeLines.vue'

const props = defineProps<{
  proposed: Pick<NonNullable<LadderView['proposed']>, 'by' | 'by_name' | 'at' | 'reason' | 'changes'>
  /** Says yes to it, and no. */
  approve: ChangeKind<Of, unknown>
  turnDown: ChangeKind<Of, unknown>
  /** What it is a version of, as those changes call it. */
  of: Of
}>()
const { acting } = usePeople()
const yes = useChange(props.approve)
const no = useChange(props.turnDown)
</script>

<template>
  <section aria-label="Waits for a second engineer" data-test="proposed-version">
    <h3>Waits for a second engineer</h3>
    <p>
      {{ proposed.reason }} <span class="quiet small">{{ proposed.by_name }}, {{ date(proposed.at) }}</span>
    </p>
    <ChangeLines :changes="proposed.changes" class="small" />
    <ProblemNote :error="yes.error.value ?? no.error.value" />
    <p class="buttons">
      <ElButton
        v-if="acting !== proposed.by"
        type="primary"
        data-test="approve"
        :loading="yes.isPending.value"
        @click="yes.mutate(of)"
        >Approve</ElButton
      >
      <button type="button" class="act" @click="no.mutate(of)">
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
