<script setup lang="ts">
import { computed } from 'vue'
import type { components } from '../generated/api'
import { kindWords, stateWords } from '../common/format'
import FacetValues from '../common/FacetValues.vue'
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

const says = (one: { value: string }) => words[one.value] ?? one.value
const all = (key: string) => change({ [key]: key === 'state' ? 'all' : '' })
</script>

<template>
  <div class="facets" :class="{ folded }">
    <template v-if="!folded">
      <FacetValues
        v-for="filter in filters"
        :key="filter.key"
        :name="filter.name"
        :values="filter.values"
        :chosen="chosen(filter.key)"
        :says="says"
        :label="filter.key === 'state' && state === 'open' ? 'open' : undefined"
        :data-test="`facet-${filter.key}`"
        @all="all(filter.key)"
        @toggle="(value) => toggle(filter.key, value)"
      >
        <template v-if="filter.key === 'state'" #also>
          <button class="act" @click="change({ state: '' })">Open</button>
        </template>
      </FacetValues>
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
</style>
