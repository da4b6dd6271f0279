<script setup lang="ts">
import { ref } from 'vue'
import ChoiceField from '../../common/fields/ChoiceField.vue'
import { dayOf, weekday } from '../../common/format'
import type { Place } from './place'

/** Where a card goes, by keyboard: crew and day, or off the board. */
const props = defineProps<{
  /** Where it lies. */
  at: Place
  crews: { code?: string | null; name: string }[]
  days: string[]
  busy: boolean
}>()
const emit = defineEmits<{ move: [to: Place]; close: [] }>()
const crew = ref(props.at.crew ?? '')
const day = ref(props.at.date ?? props.days[0] ?? '')
</script>

<template>
  <form
    v-arrive
    class="move"
    @submit.prevent="emit('move', { crew: crew || undefined, date: day })"
    @keydown.esc.stop="emit('close')"
  >
    <ChoiceField v-model="crew" label="Crew" name="move-crew">
      <option v-if="!at.crew" value="">as it is</option>
      <option v-for="one in crews.filter((one) => one.code)" :key="one.code ?? ''" :value="one.code">
        {{ one.name }}
      </option>
    </ChoiceField>
    <ChoiceField v-model="day" label="Day" name="move-day">
      <option v-for="one in days" :key="one" :value="one">{{ weekday(one) }} {{ dayOf(one) }}</option>
    </ChoiceField>
    <p>
      <ElButton size="small" type="primary" native-type="submit" :loading="busy" data-test="move-there">
        Move
      </ElButton>
      <button v-if="at.date" type="button" class="act" data-test="move-off" @click="emit('move', {})">
        Off the board
      </button>
      <button type="button" class="act" @click="emit('close')">Cancel</button>
    </p>
  </form>
</template>

<style scoped>
.move {
  position: absolute;
  z-index: 6;
  top: 24px;
  left: 4px;
  display: grid;
  gap: 4px;
  width: 196px;
  padding: 8px 10px;
  background: var(--paper);
  border: 1.5px solid var(--ink);
  cursor: default;
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin: 4px 0 2px;
}

.act {
  padding: 0;
}
</style>
