<script setup lang="ts">
import { computed } from 'vue'
import FacetMenu from '../common/FacetMenu.vue'
import FacetValues from '../common/FacetValues.vue'
import { whole } from '../common/format'
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
    <FacetValues
      v-for="filter in filters"
      :key="filter.column"
      :name="filter.name"
      :values="filter.values"
      :chosen="filter.chosen"
      :says="valueName"
      :data-test="`facet-${filter.column}`"
      @all="choose(withValues(chosen, filter.column, []))"
      @toggle="(value) => choose(withValue(chosen, filter.column, value))"
    >
      <p v-if="filter.more" class="quiet small">and {{ whole(filter.more) }} more</p>
    </FacetValues>
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
