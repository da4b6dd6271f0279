<script setup lang="ts">
import type { components } from '../generated/api'
import FacetMenu from '../common/FacetMenu.vue'
import { useAddress } from '../common/useAddress'

defineProps<{
  facets: components['schemas']['Facet'][]
  /** Only the search: the filters stay as they are. */
  folded?: boolean
}>()
const { read, change } = useAddress()

function filters(): Map<string, string> {
  const parts = read('filter').split(',').filter(Boolean)
  return new Map(parts.map((part) => [part.split(':')[0] ?? '', part.slice(part.indexOf(':') + 1)]))
}
function choose(column: string, value: string | undefined) {
  const now = filters()
  if (value === undefined) now.delete(column)
  else now.set(column, value)
  change({ filter: [...now].map(([name, chosen]) => `${name}:${chosen}`).join(',') })
}
const label = (value: string | undefined) => (value === undefined ? 'all' : value || 'none')
</script>

<template>
  <div class="facets">
    <template v-if="!folded">
      <FacetMenu
        v-for="facet in facets.filter((one) => one.values.length > 1 || filters().has(one.column))"
        :key="facet.column"
        :name="facet.label"
        :chosen="label(filters().get(facet.column))"
        :data-test="`facet-${facet.column}`"
      >
        <button class="act" @click="choose(facet.column, undefined)">All</button>
        <button
          v-for="one in facet.values"
          :key="one.value"
          class="plain value"
          :aria-pressed="filters().get(facet.column) === one.value"
          @click="choose(facet.column, one.value)"
        >
          <span>{{ one.value || 'none' }}</span>
          <span class="quiet">{{ one.count }}</span>
        </button>
      </FacetMenu>
    </template>
    <slot />
  </div>
</template>

<style scoped>
.facets > :deep(input[type='search']) {
  width: 190px;
  margin-left: auto;
}

.act {
  justify-self: start;
}

.value {
  display: flex;
  justify-content: space-between;
  gap: 20px;
}

.value[aria-pressed='true'] {
  font-weight: 600;
  color: var(--accent);
}
</style>
