<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { answer, api } from '../common/api'
import ChangeList from './ChangeList.vue'
import type { Kind } from './kinds'

const props = defineProps<{ kind: Kind; code: string }>()
const { data } = useQuery({
  queryKey: ['changes', () => props.kind, () => props.code],
  queryFn: () =>
    answer(
      api.GET('/api/v1/changes', { params: { query: { kind: props.kind, code: props.code, limit: 50 } } }),
    ),
})
</script>

<template>
  <section v-if="data?.length" class="history">
    <h2>Who changed what</h2>
    <ChangeList :changes="data" />
  </section>
</template>

<style scoped>
.history {
  margin-top: 26px;
}
</style>
