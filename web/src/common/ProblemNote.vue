<script setup lang="ts">
import { computed } from 'vue'
import { Problem } from './api'

const props = defineProps<{
  error?: unknown
  /** Fields that show their own error beside them. */
  shown?: string[]
  /** Asks again for what failed. */
  again?: () => unknown
}>()

/** A field's own name, without the way to it through the body that was sent. */
const named = (field: string) => field.split('.').at(-1)?.replaceAll('_', ' ')
const lines = computed(() => {
  if (!props.error) return []
  if (!(props.error instanceof Problem)) return [String(props.error)]
  const rest = props.error.fields.filter((error) => !props.shown?.includes(error.field))
  if (props.error.fields.length) return rest.map((error) => `${named(error.field)}: ${error.reason}`)
  return [props.error.message]
})
</script>

<template>
  <div v-if="lines.length" class="wrong" role="alert">
    <p v-for="line in lines" :key="line">{{ line }}</p>
    <button v-if="again" type="button" class="act" data-test="try-again" @click="again()">Try again</button>
  </div>
</template>

<style scoped>
p {
  margin: 6px 0 0;
}
</style>
