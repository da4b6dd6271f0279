<script setup lang="ts">
import { useId } from 'vue'

/** What somebody says in a row of a list, with the button that keeps it; what is wrong with it stands beside it. */
defineProps<{
  /** What is asked. */
  label: string
  name: string
  /** What the button does. */
  act: string
  wrong?: string
  isPending?: boolean
}>()
const said = defineModel<string>({ required: true })
const emit = defineEmits<{ keep: [] }>()
const id = useId()
</script>

<template>
  <form v-arrive @submit.prevent="emit('keep')">
    <input
      v-model="said"
      class="line"
      :name
      :aria-label="label"
      :placeholder="label"
      :aria-describedby="wrong ? id : undefined"
    />
    <ElButton native-type="submit" type="primary" :loading="isPending">{{ act }}</ElButton>
    <span v-if="wrong" :id class="wrong" role="alert">{{ wrong }}</span>
  </form>
</template>

<style scoped>
form {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
