<script setup lang="ts">
import { computed } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import type { GroupAsked, Subject } from '../common/list/asked'
import { useChosen } from './useChosen'

const props = defineProps<{ subject: Subject }>()
const { chosen, choose } = useChosen()

/** The most that the server takes. */
const MOST = 6
const group = computed(() => chosen.value.group ?? [])
const name = (one: GroupAsked) => {
  const column = props.subject.columns.find((other) => other.id === one.column)?.name ?? one.column
  return one.by ? `${column} by ${one.by}` : column
}
const label = computed(() => group.value.map(name).join(', then ') || 'nothing')
/** Everything that rows can fall together by, instants in each of their steps. */
const choices = computed<GroupAsked[]>(() =>
  props.subject.columns.flatMap((column): GroupAsked[] => {
    if (column.is_word) return [{ column: column.id }]
    return column.steps.map((by) => ({ column: column.id, by }))
  }),
)
const same = (one: GroupAsked, other: GroupAsked) => one.column === other.column && one.by === other.by
const place = (one: GroupAsked) => group.value.findIndex((other) => same(one, other))
function toggle(one: GroupAsked) {
  const next = place(one) < 0 ? [...group.value, one] : group.value.filter((other) => !same(one, other))
  choose({ ...chosen.value, group: next.slice(0, MOST) })
}
</script>

<template>
  <FacetMenu name="Group by" :chosen="label" data-test="group-by">
    <button class="act" @click="choose({ ...chosen, group: [] })">Nothing</button>
    <FacetCheck
      v-for="one in choices"
      :key="`${one.column} ${one.by}`"
      :data-test="`by-${one.column}${one.by ? `-${one.by}` : ''}`"
      :name="name(one)"
      :note="place(one) < 0 ? undefined : place(one) + 1"
      :checked="place(one) >= 0"
      :disabled="place(one) < 0 && group.length >= MOST"
      @toggle="toggle(one)"
    />
  </FacetMenu>
</template>
