<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { WorkDetail } from '../common/api'
import { dateTime } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { checkSheets } from '../common/queries/jobs'
import { useAddress } from '../common/useAddress'
import { addCheck, leaveCheckOut } from './changes'

/** Check sheets of an order: what is to be filled in, and what was. */
const props = defineProps<{ work: WorkDetail }>()
const { to } = useAddress()
const add = useChange(addCheck)
const leaveOut = useChange(leaveCheckOut)
const isAdding = ref(false)
const others = useQuery(() => ({ ...checkSheets(), enabled: isAdding.value }))
/** What is meant for the asset first. */
const choices = computed(() => {
  const meant = props.work.recommended_checks
  const rest = (others.data.value ?? []).filter(
    (sheet) => sheet.status === 'active' && !meant.some((one) => one.code === sheet.code),
  )
  return [
    ...meant.map(({ code, title }) => ({ code, title, isMeant: true })),
    ...rest.map(({ code, title }) => ({ code, title, isMeant: false })),
  ]
})
/** Those of a round stand with its visits. */
const shown = computed(() =>
  props.work.checks.filter((check) => !props.work.job?.round || check.step == null),
)
const mayAdd = computed(() => props.work.may_tick && !props.work.is_over)
function choose(sheet: string) {
  isAdding.value = false
  add.mutate({ number: props.work.number, sheet })
}
</script>

<template>
  <section v-if="shown.length || mayAdd" :class="{ 'no-print': !shown.length }" data-test="checks">
    <h2>
      Check sheets
      <button v-if="mayAdd" class="act no-print" data-test="add-check" @click="isAdding = !isAdding">
        {{ isAdding ? 'None' : 'Add one' }}
      </button>
    </h2>
    <ul v-if="shown.length">
      <li v-for="check in shown" :key="check.id" :data-test="`check-${check.sheet}`">
        <RouterLink :to="to(`/work/${work.number}/checks/${check.id}`)" class="title">{{
          check.title
        }}</RouterLink>
        <span class="quiet small">
          {{ check.asset.code === work.asset.code ? '' : `${check.asset.name}, ` }}
          <template v-if="check.finished_at"
            >finished by {{ check.by }}, {{ dateTime(check.finished_at) }}</template
          >
          <template v-else-if="check.begun_at"
            >begun by {{ check.by }}, {{ dateTime(check.begun_at) }}</template
          >
          <template v-else>to be filled in</template>
        </span>
        <button
          v-if="check.may_leave_out && work.may_tick && !work.is_over"
          class="act no-print"
          @click="leaveOut.mutate({ number: work.number, id: check.id })"
        >
          Leave out
        </button>
      </li>
    </ul>
    <p v-if="isAdding && !choices.length" class="quiet">There is no active check sheet yet.</p>
    <ul v-if="isAdding" class="choices" data-test="check-choices">
      <li v-for="{ code, title, isMeant } in choices" :key="code">
        <button class="act" :data-test="`add-${code}`" @click="choose(code)">{{ title }}</button>
        <span v-if="isMeant" class="quiet small">meant for {{ work.asset.name }}</span>
      </li>
    </ul>
    <ProblemNote :error="add.error.value ?? leaveOut.error.value" />
  </section>
</template>

<style scoped>
ul {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.title {
  font-weight: 600;
}

li .act {
  margin-left: auto;
  padding: 0;
}

.choices li .act {
  margin-left: 0;
  min-height: 32px;
}
</style>
