<script setup lang="ts">
import { computed } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import type { Subject } from '../common/list/asked'
import { useChosen } from './useChosen'

const props = defineProps<{
  subject: Subject
  /** Ids of the columns that are shown, in their order. */
  shown: string[]
}>()
const { chosen, choose } = useChosen()

/** Those that are shown come first, in their order. */
const columns = computed(() => [
  ...props.shown.flatMap((id) => props.subject.columns.filter((column) => column.id === id)),
  ...props.subject.columns.filter((column) => !props.shown.includes(column.id)),
])
const put = (next: string[]) => choose({ ...chosen.value, columns: next })
const toggle = (id: string) =>
  put(props.shown.includes(id) ? props.shown.filter((other) => other !== id) : [...props.shown, id])
function earlier(id: string) {
  const place = props.shown.indexOf(id)
  const next = props.shown.filter((other) => other !== id)
  next.splice(place - 1, 0, id)
  put(next)
}
</script>

<template>
  <FacetMenu name="Columns" :chosen="`${shown.length} of ${subject.columns.length}`" data-test="columns">
    <button class="act" @click="put([])">The usual ones</button>
    <div v-for="column in columns" :key="column.id" class="column">
      <FacetCheck
        :name="column.name"
        :checked="shown.includes(column.id)"
        :disabled="shown.length === 1 && shown.includes(column.id)"
        @toggle="toggle(column.id)"
      />
      <button
        v-if="shown.indexOf(column.id) > 0"
        class="plain"
        :aria-label="`${column.name} further to the left`"
        title="Further to the left"
        @click="earlier(column.id)"
      >
        ↑
      </button>
    </div>
  </FacetMenu>
</template>

<style scoped>
.column {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  white-space: nowrap;
}
</style>
