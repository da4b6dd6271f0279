<script setup lang="ts">
import { answer, api, type ShelfRow } from '../common/api'
import { dateTime } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useChange } from '../common/change/useChange'

defineProps<{ shelves: ShelfRow[] }>()
const { to } = useAddress()
const { mutate, error } = useChange((code: string) =>
  answer(api.DELETE('/api/v1/meters/{code}/shelf', { params: { path: { code } } })),
)
</script>

<template>
  <ProblemNote :error="error" />
  <table v-if="shelves.length" class="ledger">
    <thead>
      <tr>
        <th>Meter</th>
        <th>Reason</th>
        <th>Until</th>
        <th>By</th>
        <th class="num">Alarms held</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="shelf in shelves" :key="shelf.meter" data-test="shelf">
        <td>
          <RouterLink :to="to(`/watch/${shelf.meter}`)"
            >{{ shelf.asset.name }}: {{ shelf.meter_name }}</RouterLink
          >
        </td>
        <td>{{ shelf.reason }}</td>
        <td>{{ dateTime(shelf.until) }}</td>
        <td>{{ shelf.by }}</td>
        <td class="num">{{ shelf.holds }}</td>
        <td class="num"><button class="act" @click="mutate(shelf.meter)">Take off the shelf</button></td>
      </tr>
    </tbody>
  </table>
  <EmptyState v-else title="Nothing is shelved">
    Shelve a meter while it is known to tell nothing, such as during work on its cabling. Its alarms are held
    back until the shelf ends, and answer then if they still stand.
  </EmptyState>
</template>
