<script setup lang="ts">
import { type AlarmsNow } from '../common/api'
import { dateTime } from '../common/format'
import EmptyState from '../common/EmptyState.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { useOutOfUse } from '../common/useOutOfUse'

defineProps<{ spells: AlarmsNow['out_of_use'] }>()
const { to } = useAddress()
const { end } = useOutOfUse()
</script>

<template>
  <ProblemNote :error="end.error.value" />
  <table v-if="spells.length" class="ledger">
    <thead>
      <tr>
        <th>Asset</th>
        <th>Why</th>
        <th>From</th>
        <th>Until</th>
        <th>By</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in spells" :key="one.asset.code + one.from" data-test="out-of-use">
        <td>
          <RouterLink :to="to('/alarms', { scope: one.asset.code })">{{ one.asset.name }}</RouterLink>
        </td>
        <td>{{ one.reason }}</td>
        <td>{{ dateTime(one.from) }}</td>
        <td>{{ one.until ? dateTime(one.until) : 'until it is taken back' }}</td>
        <td>{{ one.by }}</td>
        <td class="do">
          <button class="act" data-test="back-in-use" @click="end.mutate(one.asset.code)">
            Take back into use
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <EmptyState v-else title="Every asset is in use">
    Put an asset out of use in the plant’s setup, beside where it stands: alarms of it and of all below it are
    held until it is back, and answer then if they still stand.
  </EmptyState>
</template>

<style scoped>
.do {
  text-align: right;
}
</style>
