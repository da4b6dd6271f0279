<script setup lang="ts">
import { computed, ref } from 'vue'
import FacetCheck from '../common/FacetCheck.vue'
import FacetMenu from '../common/FacetMenu.vue'
import { useAddress } from '../common/useAddress'

/** The period that figures are compared with. */
const { read, change } = useAddress()
const against = computed(() => read('against'))
const words: Record<string, string> = { '': 'the period before', last_year: 'the same last year' }
const [from, to] = against.value.split('..')
const dates = ref({ from: to ? from : '', to: to ?? '' })
const isOwn = computed(() => !(against.value in words))
const label = computed(() => words[against.value] ?? against.value.replace('..', ' to '))
const set = () =>
  dates.value.from && dates.value.to && change({ against: `${dates.value.from}..${dates.value.to}` })
</script>

<template>
  <FacetMenu name="Against" :chosen="label" data-test="against">
    <FacetCheck
      v-for="(name, key) in words"
      :key="key"
      :name="name"
      :checked="against === key"
      :data-test="`against-${key || 'before'}`"
      @toggle="change({ against: key })"
    />
    <form class="own" :class="{ isOwn }" @submit.prevent="set">
      <label>From <input v-model="dates.from" class="line" type="date" name="against-from" /></label>
      <label>to before <input v-model="dates.to" class="line" type="date" name="against-to" /></label>
      <button class="act" data-test="against-dates">Compare with these</button>
    </form>
  </FacetMenu>
</template>

<style scoped>
.own {
  display: grid;
  gap: 4px;
  margin-top: 6px;
  font-size: 14px;
}

.own label {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}

.own .line {
  width: 150px;
}
</style>
