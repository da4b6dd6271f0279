<script setup lang="ts">
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import { count } from '../common/format'
import type { Definition } from '../common/api'

/** Which indicators stand in the table, and in which order. */
const props = defineProps<{ catalogue: Definition[]; shown: string[] }>()
const emit = defineEmits<{ choose: [ids: string[]] }>()
const toggle = (id: string) =>
  emit('choose', props.shown.includes(id) ? props.shown.filter((one) => one !== id) : [...props.shown, id])
function earlier(id: string) {
  const at = props.shown.indexOf(id)
  const next = [...props.shown]
  if (at > 0) next.splice(at - 1, 2, id, next[at - 1]!)
  emit('choose', next)
}
const nameOf = (id: string) => props.catalogue.find((one) => one.id === id)?.name ?? id
const others = () => props.catalogue.filter((one) => !props.shown.includes(one.id))
</script>

<template>
  <FacetMenu name="Columns" :chosen="count(shown.length, 'indicator', 'indicators')" data-test="columns">
    <button class="act" @click="emit('choose', [])">The usual ones</button>
    <div v-for="(id, place) in shown" :key="id" class="one">
      <FacetCheck :name="nameOf(id)" checked :data-test="`column-${id}`" @toggle="toggle(id)" />
      <button v-if="place" class="act" :aria-label="`${nameOf(id)} further left`" @click="earlier(id)">
        ←
      </button>
    </div>
    <hr />
    <FacetCheck
      v-for="one in others()"
      :key="one.id"
      :name="one.name"
      :checked="false"
      :data-test="`column-${one.id}`"
      @toggle="toggle(one.id)"
    />
  </FacetMenu>
</template>

<style scoped>
.one {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 12px;
}

hr {
  width: 100%;
  border: 0;
  border-top: 1px solid var(--rule);
}
</style>
