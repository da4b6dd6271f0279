<script setup lang="ts">
import { useWhy } from '../common/useWhy'

/** A few figures that say most, each above what it is; those of an asset lead to their why. */
defineProps<{
  facts: { id?: string; name: string; text: string; worse?: boolean }[]
  /** Code of the asset that they are of. */
  asset?: string
}>()
const { open } = useWhy()
</script>

<template>
  <dl>
    <div v-for="fact in facts" :key="fact.id ?? fact.name">
      <dt class="quiet small">{{ fact.name }}</dt>
      <dd :class="{ worse: fact.worse }">
        <button
          v-if="fact.id && asset"
          class="plain"
          :title="`Why: ${fact.name}`"
          :data-test="`key-${fact.id}`"
          @click="open(fact.id, { asset })"
        >
          {{ fact.text }}
        </button>
        <template v-else>{{ fact.text }}</template>
      </dd>
    </div>
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(118px, 1fr));
  gap: 10px 18px;
  margin: 14px 0 18px;
}

div {
  display: flex;
  flex-direction: column-reverse;
  justify-content: flex-end;
}

dd {
  margin: 0;
  font: 600 24px/1.2 var(--serif);
}

dt {
  line-height: 1.3;
}

.worse {
  color: var(--worse);
}
</style>
