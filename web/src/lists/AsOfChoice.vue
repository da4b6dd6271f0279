<script setup lang="ts">
import AsOfMenu from '../common/AsOfMenu.vue'
import { useChosen } from './useChosen'

const { chosen, choose } = useChosen()
const ask = (as_of?: string, known_at?: string) => choose({ ...chosen.value, as_of, known_at })
</script>

<template>
  <AsOfMenu :as-of="chosen.as_of" :known-at="chosen.known_at" @ask="ask" />
</template>
