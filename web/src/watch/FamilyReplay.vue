<script setup lang="ts">
import { familyReplay } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type Ladder } from '../common/api'
import { whole, hours, money } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { usePaced } from '../common/usePaced'
import GivenLines from './GivenLines.vue'
import JudgedBy from './JudgedBy.vue'
import RungFinder from './RungFinder.vue'
import { useJudging } from './useJudging'

const props = defineProps<{
  /** Code of the equipment class. */
  equipmentClass: string
  name: string
  unit: string
}>()
const draft = defineModel<Ladder>({ required: true })
const { period } = useAddress()
const { judging } = useJudging()

const wanted = computed(() => ({ ...judging.value, ladder: draft.value }))
type Asked = typeof wanted.value
const { asked, follow } = usePaced(computed(() => JSON.stringify(wanted.value)))
const { data, error, isFetching } = useQuery(() => ({
  ...familyReplay(props.equipmentClass, props.name, {
    period: period.value,
    ...(JSON.parse(asked.value) as Asked),
  }),
  placeholderData: keepPreviousData,
  retry: false,
}))
follow(isFetching)
</script>

<template>
  <section data-test="family-replay">
    <ProblemNote v-if="!data" :error="error" />
    <template v-if="data">
      <p class="verdict" aria-live="polite">{{ data.verdict }}</p>
      <JudgedBy :offered="data.problems" />
      <p class="quiet small">
        Over {{ whole(data.readings) }} readings; the work would have taken {{ hours(data.hours) }} h and
        {{ money(Math.round(data.cost)) }} {{ installation.currency }}, at what such work usually comes to.
      </p>
      <GivenLines :lines="data.assumptions" />
      <RungFinder v-model="draft" :of="{ family: { class: equipmentClass, name } }" :unit="unit" />
    </template>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 16px;
}
</style>
