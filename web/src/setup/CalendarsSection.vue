<script setup lang="ts">
import { calendars } from '../common/queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import CalendarForm from './CalendarForm.vue'
import { weekWords } from './week'

const props = defineProps<{
  /** Of the calendar that is open; `new` for one to add. */
  code?: string
}>()
const { to } = useAddress()
const { data, error } = useQuery(calendars())
const chosen = computed(() => data.value?.find((one) => one.code === props.code))
</script>

<template>
  <div class="head">
    <div>
      <h1>Calendars</h1>
      <p class="quiet">When assets have to run. Only downtime in these hours counts against availability.</p>
    </div>
    <RouterLink :to="to('/setup/calendars/new')" class="press primary" data-test="add-row">
      Add calendar
    </RouterLink>
  </div>
  <ProblemNote :error="error" />
  <table v-if="data?.length" class="ledger">
    <thead>
      <tr>
        <th>Code</th>
        <th>Name</th>
        <th>Hours outside seasons</th>
        <th class="num">Seasons</th>
        <th>Time zone</th>
        <th class="num">Assets that have it</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in data" :key="one.code">
        <td>
          <RouterLink :to="to(`/setup/calendars/${one.code}`)" data-row>{{ one.code }}</RouterLink>
        </td>
        <td>{{ one.name }}</td>
        <td>{{ weekWords(one.calendar.hours) }}</td>
        <td class="num">{{ one.calendar.seasons?.length ?? 0 }}</td>
        <td>{{ one.calendar.time_zone }}</td>
        <td class="num">{{ one.assets }}</td>
      </tr>
    </tbody>
  </table>
  <EmptyState v-else-if="data" title="No calendars yet">
    Without one, every asset has to run around the clock.
  </EmptyState>
  <CalendarForm v-if="code === 'new' || chosen" :key="code" :calendar="chosen" />
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 20px;
  margin-bottom: 10px;
}

.head p {
  margin: 3px 0 0;
}
</style>
