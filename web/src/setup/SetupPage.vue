<script setup lang="ts">
import { computed } from 'vue'
import { useAddress } from '../common/useAddress'
import CalendarsSection from './CalendarsSection.vue'
import ChangesSection from './ChangesSection.vue'
import FilesSection from './FilesSection.vue'
import InstallationSection from './InstallationSection.vue'
import MasterSection from './MasterSection.vue'
import OutsideSection from './OutsideSection.vue'
import { isTable, sections } from './kinds'

const props = defineProps<{
  section: string
  /** Of the row that is open; `new` for one to add. */
  code?: string
}>()
const { to } = useAddress()
const table = computed(() => (isTable(props.section) ? props.section : undefined))
</script>

<template>
  <nav class="parts no-print" aria-label="Setup">
    <RouterLink
      v-for="part in sections"
      :key="part.key"
      :to="to(`/setup/${part.key}`)"
      :class="{ here: part.key === section }"
      :aria-current="part.key === section ? 'page' : undefined"
    >
      {{ part.name }}
    </RouterLink>
  </nav>
  <MasterSection v-if="table" :key="table" :kind="table" :code="code" />
  <CalendarsSection v-else-if="section === 'calendars'" :code="code" />
  <InstallationSection v-else-if="section === 'installation'" />
  <FilesSection v-else-if="section === 'files'" :chosen="code" />
  <OutsideSection v-else-if="section === 'outside'" />
  <ChangesSection v-else />
</template>
