<script setup lang="ts">
import { computed } from 'vue'
import PartsNav from '../common/PartsNav.vue'
import BackupsSection from './BackupsSection.vue'
import CalendarsSection from './CalendarsSection.vue'
import ChangesSection from './ChangesSection.vue'
import CheckSheetsSection from './CheckSheetsSection.vue'
import FilesSection from './FilesSection.vue'
import JobSheetsSection from './JobSheetsSection.vue'
import KeysSection from './KeysSection.vue'
import InstallationSection from './InstallationSection.vue'
import MasterSection from './MasterSection.vue'
import RoundsSection from './RoundsSection.vue'
import OutsideSection from './OutsideSection.vue'
import ValuesSection from './ValuesSection.vue'
import { isTable, sections } from './kinds'

const props = defineProps<{
  section: string
  /** Of the row that is open; `new` for one to add. */
  code?: string
}>()
const table = computed(() => (isTable(props.section) ? props.section : undefined))
const parts = computed(() =>
  sections.map(({ key, ...part }) => ({ ...part, path: `/setup/${key}`, here: key === props.section })),
)
</script>

<template>
  <PartsNav name="Setup" :parts="parts" />
  <MasterSection v-if="table" :key="table" :kind="table" :code="code" />
  <CalendarsSection v-else-if="section === 'calendars'" :code="code" />
  <JobSheetsSection v-else-if="section === 'job-sheets'" :code="code" />
  <CheckSheetsSection v-else-if="section === 'check-sheets'" :code="code" />
  <RoundsSection v-else-if="section === 'rounds'" :code="code" />
  <ValuesSection v-else-if="section === 'values'" />
  <InstallationSection v-else-if="section === 'installation'" />
  <FilesSection v-else-if="section === 'files'" :chosen="code" />
  <OutsideSection v-else-if="section === 'outside'" />
  <KeysSection v-else-if="section === 'keys'" />
  <BackupsSection v-else-if="section === 'backups'" />
  <ChangesSection v-else />
</template>
