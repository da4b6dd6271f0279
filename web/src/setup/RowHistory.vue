<script setup lang="ts">
import { changes } from './queries/master'
import { useQuery } from '@tanstack/vue-query'
import ChangeList from './ChangeList.vue'
import type { Kind } from './kinds'

const props = defineProps<{ kind: Kind; code: string }>()
const { data } = useQuery(() => changes({ kind: props.kind, code: props.code, limit: 50 }))
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
