<script setup lang="ts">
import { families } from './queries/families'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { unit } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import WatchNav from './WatchNav.vue'

const { scope, to } = useAddress()
const { data, error } = useQuery(() => ({ ...families(scope.value), placeholderData: keepPreviousData }))
const without = computed(() => (data.value ?? []).filter((family) => !family.has_ladder).length)
</script>

<template>
  <WatchNav />
  <ProblemNote :error="error" />
  <template v-if="data?.length">
    <h1>{{ data.length }} families of meters, {{ without }} without limits of their own</h1>
    <p class="quiet">
      Meters of one name on assets of one equipment class. Write their limits once; meters that need others
      keep theirs, and are marked.
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th>Family</th>
          <th>Unit</th>
          <th class="num">Meters</th>
          <th class="num">With limits</th>
          <th>Family’s limits</th>
          <th class="num">Deviating</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="family in data" :key="`${family.class} ${family.name}`" data-test="family">
          <td>
            <RouterLink :to="to(`/families/${family.class}/${encodeURIComponent(family.name)}`)">
              {{ family.class_name }}: {{ family.name }}
            </RouterLink>
          </td>
          <td>{{ unit(family.unit) }}</td>
          <td class="num">{{ family.meters }}</td>
          <td class="num">{{ family.with_limits || '' }}</td>
          <td>{{ family.has_ladder ? 'written' : '' }}</td>
          <td class="num">{{ family.deviating || '' }}</td>
        </tr>
      </tbody>
    </table>
  </template>
  <EmptyState v-else-if="data" title="No families here">
    A family is two or more meters of one name on assets of one equipment class. Give assets a class and their
    meters the same name, in <RouterLink :to="to('/setup/meters')">Setup</RouterLink>.
  </EmptyState>
</template>
