<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { person } from '../api'
import { usePeople } from '../usePeople'

const client = useQueryClient()
const { people, acting: actor, error } = usePeople()
const acting = computed({
  get: () => person.value || actor.value,
  set(code: string) {
    person.value = code
    // What the last one saw is not shown to the next.
    client.resetQueries()
  },
})
const role = computed(() => people.value.find((one) => one.code === acting.value)?.role ?? '')

/** A person who is gone can't act: the first administrator does. */
function reset() {
  person.value = ''
  client.resetQueries()
}
</script>

<template>
  <button v-if="error && person" class="act" @click="reset">Act as administrator</button>
  <label v-else class="who">
    <span>acting as {{ role }}</span>
    <select v-model="acting" aria-label="Acting as">
      <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
    </select>
  </label>
</template>

<style scoped>
.who {
  display: grid;
  line-height: 1.15;
}

span {
  font-size: 11.5px;
  color: var(--ink-3);
}

select {
  border: 0;
  background: transparent;
  color: var(--ink);
  font: 600 13.5px var(--sans);
  max-width: 168px;
  padding: 0;
  margin-left: -4px;
  cursor: pointer;
  text-overflow: ellipsis;
}

option {
  background: var(--paper);
}
</style>
