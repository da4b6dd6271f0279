<script setup lang="ts">
import type { components } from '../generated/api'
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
      <details
        v-for="facet in facets.filter((one) => one.values.length > 1 || filters().has(one.column))"
        :key="facet.column"
        name="facet"
        :data-test="`facet-${facet.column}`"
      >
        <summary>
          {{ facet.label }} <strong>{{ label(filters().get(facet.column)) }}</strong>
        </summary>
        <div class="values">
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
        </div>
      </details>
    </template>
    <slot />
  </div>
</template>

<style scoped>
.facets {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin-bottom: 10px;
}

.facets :slotted(input[type='search']) {
  width: 190px;
}

details {
  position: relative;
  font-size: 14px;
}

summary {
  cursor: pointer;
  color: var(--ink-2);
}

summary strong {
  color: var(--ink);
}

.values {
  position: absolute;
  z-index: 10;
  top: 26px;
  left: 0;
  min-width: 200px;
  max-height: 340px;
  overflow: auto;
  display: grid;
  gap: 3px;
  padding: 8px 14px 12px;
  background: var(--paper);
  border: 1px solid var(--ink);
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
