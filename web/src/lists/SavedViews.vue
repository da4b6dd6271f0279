<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../common/api'
import { useChange } from '../common/change/useChange'
import FacetMenu from '../common/FacetMenu.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { type Chosen, type Subject, addressOf } from '../common/list/asked'
import { dropView, keepView } from './changes'
import { views } from '../common/queries/lists'
import { useChosen } from './useChosen'

const props = defineProps<{ subject: Subject }>()
const { chosen, choose } = useChosen()

const { data } = useQuery(() => views(props.subject.id))
const name = ref('')
const shared = ref(false)
const kept = useChange(keepView, () => (name.value = ''))
const dropped = useChange(dropView)
const current = computed(
  () => data.value?.find((view) => addressOf(view.ask as Chosen) === addressOf(chosen.value))?.name ?? '',
)
const keep = () =>
  kept.mutate({
    subject: props.subject.id,
    view: { name: name.value, shared: shared.value, ask: chosen.value as Schemas['Asked'] },
  })
</script>

<template>
  <FacetMenu
    name="View"
    :chosen="current || (addressOf(chosen) ? 'not kept' : 'as it comes')"
    data-test="views"
  >
    <button class="act" @click="choose({})">As it comes</button>
    <div v-for="view in data ?? []" :key="view.id" class="view">
      <button class="act" @click="choose(view.ask as Chosen)">{{ view.name }}</button>
      <span v-if="!view.is_own" class="quiet small">{{ view.person }}</span>
      <button
        v-else
        class="plain"
        :aria-label="`Forget the view ${view.name}`"
        title="Forget it"
        @click="dropped.mutate({ subject: subject.id, id: view.id })"
      >
        ×
      </button>
    </div>
    <form @submit.prevent="keep">
      <input
        v-model="name"
        class="line"
        name="view-name"
        placeholder="Keep it as…"
        aria-label="Name of the view"
      />
      <label class="small"><input v-model="shared" type="checkbox" name="view-shared" /> for everybody</label>
      <ElButton native-type="submit" size="small" :loading="kept.isPending.value">Keep</ElButton>
      <ProblemNote :error="kept.error.value ?? dropped.error.value" />
    </form>
  </FacetMenu>
</template>

<style scoped>
.view {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}

form {
  display: grid;
  gap: 6px;
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--rule);
}
</style>
