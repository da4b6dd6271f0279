<script setup lang="ts">
import { computed } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import { inShort, whole } from '../common/format'
import { type Answer, type Subject, valuesOf, withValue, withValues } from '../common/list/asked'
import { wordOf } from '../common/list/cells'
import { useChosen } from './useChosen'

const props = defineProps<{ subject: Subject; answer: Answer }>()
const { chosen, choose } = useChosen()

const name = (id: string) => props.subject.columns.find((column) => column.id === id)?.name ?? id
const filters = computed(() =>
  props.answer.facets.map((facet) => ({
    ...facet,
    name: name(facet.column),
    chosen: valuesOf(chosen.value, facet.column),
  })),
)
const shown = computed(() => props.answer.facets.map((facet) => facet.column))
/** Columns whose values could be offered as well. */
const others = computed(() =>
  props.subject.columns.filter((column) => column.is_word && !shown.value.includes(column.id)),
)
const valueName = (one: { value: string; name: string }) => (one.value === '' ? 'none' : wordOf(one.name))
const label = (filter: (typeof filters.value)[number]) => {
  const names = filter.chosen.map((value) =>
    valueName(filter.values.find((one) => one.value === value) ?? { value, name: value }),
  )
  return inShort(names)
}
/** What is filtered by more than values. */
const rest = computed(() => (chosen.value.filter ?? []).filter((one) => !one.is))
const restText = (one: (typeof rest.value)[number]) =>
  [
    name(one.column),
    one.within?.replaceAll('_', ' '),
    one.from && `from ${one.from}`,
    one.to && `to ${one.to}`,
    one.blank !== undefined && one.blank !== null && (one.blank ? 'is none' : 'is there'),
  ]
    .filter(Boolean)
    .join(' ')
const without = (one: (typeof rest.value)[number]) =>
  choose({
    ...chosen.value,
    filter: (chosen.value.filter ?? []).filter((other) => JSON.stringify(other) !== JSON.stringify(one)),
  })
const add = (column: string) => choose({ ...chosen.value, facets: [...shown.value, column] })
</script>

<template>
  <div class="facets no-print">
    <FacetMenu
      v-for="filter in filters"
      :key="filter.column"
      :name="filter.name"
      :chosen="label(filter)"
      :data-test="`facet-${filter.column}`"
    >
      <button class="act" @click="choose(withValues(chosen, filter.column, []))">All</button>
      <FacetCheck
        v-for="one in filter.values"
        :key="one.value"
        :name="valueName(one)"
        :note="whole(one.count)"
        :checked="filter.chosen.includes(one.value)"
        @toggle="choose(withValue(chosen, filter.column, one.value))"
      />
      <p v-if="filter.more" class="quiet small">and {{ whole(filter.more) }} more</p>
    </FacetMenu>
    <FacetMenu v-if="others.length" name="Filter by" chosen="more…" data-test="facet-more">
      <button v-for="column in others" :key="column.id" class="act line-act" @click="add(column.id)">
        {{ column.name }}
      </button>
    </FacetMenu>
    <span v-for="one in rest" :key="JSON.stringify(one)" class="rest">
      {{ restText(one) }}
      <button class="plain" :aria-label="`Without the filter ${restText(one)}`" @click="without(one)">
        ×
      </button>
    </span>
    <slot />
  </div>
</template>

<style scoped>
.line-act {
  display: block;
  text-align: left;
}

.rest {
  font-size: 14px;
}

.facets > :deep(input) {
  width: 190px;
  margin-left: auto;
}
</style>
