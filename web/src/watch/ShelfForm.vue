<script setup lang="ts">
import { ref } from 'vue'
import { answer, api } from '../common/api'
import { fromLocal, toLocal } from '../common/format'
import { now } from '../common/installation'
import FormField from '../common/fields/FormField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'

const props = defineProps<{
  /** Code of the meter. */
  meter: string
}>()
const emit = defineEmits<{ close: [] }>()

const HOUR = 3_600_000
const spans = [
  { words: '8 hours', ms: 8 * HOUR },
  { words: 'a day', ms: 24 * HOUR },
  { words: 'a week', ms: 7 * 24 * HOUR },
]
const until = ref(toLocal(now.value + spans[0]!.ms))
const reason = ref('')
const { mutate, error, problem, isPending } = useChange(
  () =>
    answer(
      api.PUT('/api/v1/meters/{code}/shelf', {
        params: { path: { code: props.meter } },
        body: { until: fromLocal(until.value) ?? '', reason: reason.value },
      }),
    ),
  () => emit('close'),
)
</script>

<template>
  <form
    v-arrive
    class="inset"
    aria-label="Shelve"
    @submit.prevent="mutate()"
    @keydown.esc.stop="emit('close')"
  >
    <FormField
      v-slot="{ field }"
      label="Hold its alarms back because"
      :wrong="problem?.of('reason')"
      class="why"
    >
      <input v-model="reason" v-bind="field" class="line" name="shelf-reason" />
    </FormField>
    <FormField v-slot="{ field }" label="until" :wrong="problem?.of('until')">
      <input v-model="until" v-bind="field" class="line" type="datetime-local" name="shelf-until" required />
    </FormField>
    <span class="spans small">
      <button
        v-for="span in spans"
        :key="span.words"
        type="button"
        class="act"
        @click="until = toLocal(now + span.ms)"
      >
        {{ span.words }}
      </button>
    </span>
    <ElButton type="primary" native-type="submit" :loading="isPending">Shelve</ElButton>
    <button type="button" class="act" @click="emit('close')">Cancel</button>
    <ProblemNote :error="error" :shown="['reason', 'until']" />
  </form>
</template>

<style scoped>
.why {
  flex: 1 1 240px;
}

.spans {
  display: flex;
  gap: 10px;
}
</style>
