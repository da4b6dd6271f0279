<script setup lang="ts">
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { ref } from 'vue'
import { onTheMinute } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { shelve } from './changes'

defineProps<{
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
const until = ref(onTheMinute(now.value + spans[0]!.ms))
const reason = ref('')
const { mutate, error, problem, isPending } = useChange(shelve, () => emit('close'))
</script>

<template>
  <form
    v-arrive
    class="inset"
    aria-label="Shelve"
    @submit.prevent="mutate({ meter, until, reason })"
    @keydown.esc.stop="emit('close')"
  >
    <TextField
      v-model="reason"
      label="Hold its alarms back because"
      :wrong="problem?.of('reason')"
      class="why"
      name="shelf-reason"
    />
    <InstantField v-model="until" label="until" :wrong="problem?.of('until')" name="shelf-until" required />
    <span class="spans small">
      <button
        v-for="span in spans"
        :key="span.words"
        type="button"
        class="act"
        @click="until = onTheMinute(now + span.ms)"
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
