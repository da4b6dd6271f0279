<script setup lang="ts">
import { computed } from 'vue'
import type { components } from '../generated/api'
import { inShort, kindWords, stateWords } from '../common/format'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import { useAddress } from '../common/useAddress'

const props = defineProps<{
  /** Values of each filter with their counts under the other filters. */
  facets: components['schemas']['Facets']
  /** The chosen states, `open` or `all`. */
  state: string
  /** Only the search: the filters stay as they are. */
  folded?: boolean
}>()
const { read, change } = useAddress()

const words = { ...stateWords, ...kindWords } as Record<string, string>
const open = computed<string[]>(() => props.facets.open)

const filters = computed(() => [
  { key: 'state', name: 'State', values: props.facets.state },
  { key: 'rank', name: 'Rank', values: props.facets.rank },
  { key: 'kind', name: 'Kind', values: props.facets.kind },
  { key: 'crew', name: 'Crew', values: props.facets.crew.filter((one) => one.value) },
  { key: 'source', name: 'Raised by', values: props.facets.source },
])

function chosen(key: string): string[] {
  if (key === 'state') {
    if (props.state === 'open') return open.value
    return props.state === 'all' ? [] : props.state.split(',')
  }
  return read(key).split(',').filter(Boolean)
}

function toggle(key: string, value: string) {
  const now = chosen(key)
  const next = now.includes(value) ? now.filter((one) => one !== value) : [...now, value]
  const isOpen =
    key === 'state' && next.length === open.value.length && open.value.every((one) => next.includes(one))
  change({ [key]: isOpen ? '' : next.join(',') || (key === 'state' ? 'all' : '') })
}

function label(key: string): string {
  if (key === 'state' && props.state === 'open') return 'open'
  return inShort(chosen(key).map((one) => words[one] ?? one))
}
const all = (key: string) => change({ [key]: key === 'state' ? 'all' : '' })
</script>

<template>
  <div class="facets" :class="{ folded }">
    <template v-if="!folded">
      <FacetMenu
        v-for="filter in filters"
        :key="filter.key"
        :name="filter.name"
        :chosen="label(filter.key)"
        :data-test="`facet-${filter.key}`"
      >
        <button class="act" @click="all(filter.key)">All</button>
        <button v-if="filter.key === 'state'" class="act" @click="change({ state: '' })">Open</button>
        <FacetCheck
          v-for="one in filter.values"
          :key="one.value"
          :name="words[one.value] ?? one.value"
          :note="one.count"
          :checked="chosen(filter.key).includes(one.value)"
          @toggle="toggle(filter.key, one.value)"
        />
      </FacetMenu>
    </template>
    <slot />
  </div>
</template>

<style scoped>
.facets > :deep(input) {
  width: 190px;
  margin-left: auto;
}

.folded > :deep(input) {
  width: 100%;
}

.act {
  margin-right: 14px;
}
</style>
