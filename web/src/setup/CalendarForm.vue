<script setup lang="ts">
import TextField from '../common/fields/TextField.vue'
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { components } from '../generated/api'
import { Problem } from '../common/api'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'
import { saveCalendar } from './changes'
import { readWeek, weekText } from './week'

const props = defineProps<{
  /** None for one to add. */
  calendar?: components['schemas']['CalendarView']
}>()
const { to } = useAddress()
const router = useRouter()
const kept = props.calendar
const given = reactive({
  code: kept?.code ?? '',
  name: kept?.name ?? '',
  zone: kept?.calendar.time_zone ?? installation.value.time_zone,
  week: weekText(kept?.calendar.hours ?? []),
  closed: (kept?.calendar.closed ?? []).join('\n'),
})
const seasons = ref(
  (kept?.calendar.seasons ?? []).map((season) => ({ ...season, week: weekText(season.hours) })),
)
function addSeason() {
  const from = new Date().getFullYear()
  seasons.value.push({ name: '', from: `${from}-06-01`, to: `${from}-10-01`, hours: [], week: given.week })
}

function hours(text: string, field: string) {
  const read = readWeek(text)
  if ('wrong' in read) throw new Problem(0, read.wrong, [{ field, reason: read.wrong }])
  return read.hours
}

const { mutate, error, isPending } = useChange(saveCalendar, () => router.push(to('/setup/calendars')))
const typed = () => ({
  kept: kept?.code,
  body: {
    code: given.code.trim(),
    name: given.name,
    time_zone: given.zone.trim(),
    hours: hours(given.week, 'hours'),
    seasons: seasons.value.map((season) => ({
      name: season.name,
      from: season.from,
      to: season.to,
      hours: hours(season.week, `hours of ${season.name || 'the season'}`),
    })),
    closed: given.closed
      .split(/\s+/)
      .map((day) => day.trim())
      .filter(Boolean),
  },
})
</script>

<template>
  <form class="calendar" @submit.prevent="mutate(typed)">
    <h2>{{ kept ? kept.name : 'New calendar' }}</h2>
    <p v-if="kept" class="quiet small">
      What is changed here holds for past figures too. For other hours from a date on, add a season, or give
      the assets another calendar from that date.
    </p>
    <div class="row">
      <TextField v-if="!kept" v-model="given.code" label="Code *" name="code" />
      <TextField v-model="given.name" label="Name *" name="name" />
      <TextField v-model="given.zone" label="Time zone *" name="zone" />
    </div>
    <div class="row">
      <TextField
        v-model="given.week"
        label="Weekly hours, a line each"
        long
        name="week"
        placeholder="Mon–Fri 06:00–22:00"
        rows="4"
      />
      <TextField
        v-model="given.closed"
        label="Closed days, a date each"
        long
        name="closed"
        placeholder="2026-12-25"
        rows="4"
      />
    </div>
    <h3>
      Seasons with hours of their own
      <button type="button" class="act" @click="addSeason">Add a season</button>
    </h3>
    <div v-for="(season, index) in seasons" :key="index" class="row season">
      <TextField v-model="season.name" label="Name" />
      <label class="field">From <input v-model="season.from" class="line" type="date" /></label>
      <label class="field">Until before <input v-model="season.to" class="line" type="date" /></label>
      <TextField v-model="season.week" label="Weekly hours" long rows="1" placeholder="Mon–Sun 08:00–17:00" />
      <button type="button" class="act" @click="seasons.splice(index, 1)">Take away</button>
    </div>
    <ProblemNote :error="error" />
    <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-calendar">
      {{ kept ? 'Save' : 'Add calendar' }}
    </ElButton>
    <RouterLink :to="to('/setup/calendars')" class="act" data-close>Close</RouterLink>
  </form>
</template>

<style scoped>
.calendar {
  max-width: 860px;
  margin-top: 26px;
  padding-top: 14px;
  border-top: 1.5px solid var(--ink);
}

.row {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(180px, 1fr));
  gap: 12px 18px;
  margin: 10px 0;
}

.season {
  grid-template-columns: 150px 140px 140px minmax(0, 1fr) auto;
  align-items: end;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 10px;
}

.season textarea {
  min-height: 34px;
}

h3 .act {
  margin-left: 12px;
}

.el-button {
  margin: 12px 16px 0 0;
}

@media (max-width: 760px) {
  .season {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
