<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { figures, indicators } from '../common/queries/tally'
import type { FigureAsked } from '../common/list/asked'
import { useChosen } from './useChosen'

/** Says of which figure the rows of a list are, and leads away from it. */
const props = defineProps<{ figure: FigureAsked }>()
const { chosen, choose } = useChosen()

const catalogue = useQuery(indicators())
const { data } = useQuery(() =>
  figures({
    scope: props.figure.scope ?? undefined,
    indicators: props.figure.indicator,
    period: props.figure.period ?? undefined,
    depth: 0,
  }),
)
const name = computed(() => {
  const indicator = catalogue.data.value?.find((one) => one.id === props.figure.indicator)
  const asset = data.value?.rows[0]
  const itself = props.figure.part === 'own' ? ' itself' : ''
  return indicator && asset && `${indicator.name} of ${asset.name}${itself}`
})
</script>

<template>
  <p class="small note" data-test="list-figure">
    <template v-if="name"
      >What counts for <strong>{{ name }}</strong>; each row says how much.</template
    >
    <button class="act" @click="choose({ ...chosen, figure: undefined })">All rows</button>
  </p>
</template>

<style scoped>
.note {
  margin: 3px 0 12px;
}

.act {
  margin-left: 10px;
}
</style>
