<script setup lang="ts">
import { ref } from 'vue'
import { type WorkDetail } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { changeWork } from './changes'

const props = defineProps<{ work: WorkDetail }>()
const editing = ref(false)
const reference = ref(props.work.reference ?? '')
const { mutate, error } = useChange(changeWork, () => (editing.value = false))
</script>

<template>
  <div>
    <dt>Outside number</dt>
    <dd>
      <form
        v-if="editing"
        v-arrive
        @submit.prevent="mutate({ number: work.number, reference })"
        @keydown.esc.stop="editing = false"
      >
        <input v-model="reference" class="line" name="reference" aria-label="Outside number" />
        <ProblemNote :error="error" />
      </form>
      <button v-else class="plain" title="The number that another system has for it" @click="editing = true">
        {{ work.reference || 'none' }}
      </button>
    </dd>
  </div>
</template>

<style scoped>
dt {
  font-size: 13px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

input {
  width: 110px;
  min-height: 26px;
  padding: 1px 5px;
}
</style>
