<script setup lang="ts">
import { computed } from 'vue'
import { useAddress } from '../common/useAddress'
import CalendarsSection from './CalendarsSection.vue'
import ChangesSection from './ChangesSection.vue'
import FilesSection from './FilesSection.vue'
import InstallationSection from './InstallationSection.vue'
import MasterSection from './MasterSection.vue'
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
  <ChangesSection v-else />
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: -6px 0 18px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--rule);
}

.parts a {
  color: var(--ink-2);
  font-size: 14px;
  font-weight: 600;
}

.parts a.here {
  color: var(--ink);
  box-shadow: 0 2px 0 var(--accent);
}
</style>
