<script setup lang="ts">
import { ladderChanges } from './queries/meters'
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { type LadderView } from '../common/api'
import { date } from '../common/format'
import ChangeLines from '../common/approval/ChangeLines.vue'

const props = defineProps<{
  /** Code. */
  meter: string
  versions: LadderView['versions']
}>()

/** The version whose difference from the one before is shown. */
const open = ref<number>()
watch(
  () => props.meter,
  () => (open.value = undefined),
)
const { data } = useQuery(() => ({
  ...ladderChanges(props.meter, open.value ?? 1),
  enabled: open.value !== undefined,
}))
</script>

<template>
  <ol aria-label="Versions">
    <li v-for="version in versions" :key="version.number">
      <button
        type="button"
        class="plain"
        :aria-expanded="open === version.number"
        :data-test="`version-${version.number}`"
        @click="open = open === version.number ? undefined : version.number"
      >
        <strong>{{ version.number }}</strong>
        <span>{{ version.reason }}</span>
        <span class="quiet small">
          {{ version.author }}<template v-if="version.approved_by"> and {{ version.approved_by }}</template
          >, {{ date(version.starts_at) }}
        </span>
      </button>
      <ChangeLines
        v-if="open === version.number && data?.to === open"
        :changes="data.changes"
        class="small"
      />
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 20px 0 0;
  padding: 0;
  border-top: 1px solid var(--rule);
}

li {
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}

button {
  display: grid;
  grid-template-columns: 22px 1fr;
  width: 100%;
}

button > :last-child {
  grid-column: 2;
}

li > :last-child:not(button) {
  margin-left: 22px;
}
</style>
