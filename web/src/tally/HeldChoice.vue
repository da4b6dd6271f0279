<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import FacetValues from '../common/FacetValues.vue'
import { kindWords } from '../common/format'
import { workValues } from '../common/queries/tally'
import { HELD, type HeldTo, useTally } from '../common/useTally'

/** What figures are held to: each with the values there are, and how much work has them. */
const { scope, held, change } = useTally()
const { data } = useQuery(() => ({ ...workValues(scope.value), placeholderData: keepPreviousData }))
const columns: Record<string, HeldTo> = { tags: 'tag' }
const names: Record<HeldTo, string> = {
  work_kind: 'Kind of work',
  crew: 'Crew',
  department: 'Department',
  rank: 'Rank',
  class: 'Class',
  criticality: 'Criticality',
  tag: 'Tag',
}
const words = kindWords as Record<string, string>
const valuesOf = (key: HeldTo) => (held.value[key] === undefined ? [] : String(held.value[key]).split('|'))
const nameOf = (one: { value: string; name: string }) => words[one.name] ?? (one.name || 'none')
const menus = computed(() =>
  (data.value?.facets ?? [])
    .map((facet) => ({ key: columns[facet.column] ?? (facet.column as HeldTo), values: facet.values }))
    .filter((menu) => menu.values.some((one) => one.value) && HELD.includes(menu.key))
    .map((menu) => ({
      ...menu,
      values:
        menu.key === 'tag' || menu.key === 'rank' ? menu.values.filter((one) => one.value) : menu.values,
      name: names[menu.key],
      chosen: valuesOf(menu.key),
    })),
)
function toggle(key: HeldTo, value: string) {
  const now = valuesOf(key)
  const next = now.includes(value) ? now.filter((one) => one !== value) : [...now, value]
  // None alone would be an empty text, which says nothing.
  change({ [key]: next.length === 1 && next[0] === '' ? '|' : next.join('|') })
}
const isHeld = computed(() => Object.keys(held.value).length > 0)
const all = () => change(Object.fromEntries(HELD.map((key) => [key, ''])))
</script>

<template>
  <FacetValues
    v-for="menu in menus"
    :key="menu.key"
    :name="menu.name"
    :values="menu.values"
    :chosen="menu.chosen"
    :says="nameOf"
    :data-test="`held-${menu.key}`"
    @all="change({ [menu.key]: '' })"
    @toggle="(value) => toggle(menu.key, value)"
  />
  <button v-if="isHeld" class="act" data-test="held-to-all" @click="all">Everything</button>
</template>
