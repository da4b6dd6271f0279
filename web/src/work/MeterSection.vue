<script setup lang="ts">
import { reactive, ref } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { enterReadings } from '../common/change/readings'
import { useChange } from '../common/change/useChange'
import { givenValue } from '../common/fields/given'
import ReadingValue from '../common/fields/ReadingValue.vue'
import { ago, count, unit } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'

/** Meters that are read at the steps of an order. */
const props = defineProps<{ work: WorkDetail }>()
const { to } = useAddress()
/** By code, as typed. */
const given = reactive<Record<string, string>>({})
const receipt = ref<Schemas['Receipt']>()
const { mutate, error, isPending } = useChange(enterReadings, (done: Schemas['Receipt'] | undefined) => {
  receipt.value = done
  if (!done?.refused.length) Object.keys(given).forEach((code) => delete given[code])
})
function send() {
  receipt.value = undefined
  const rows = props.work.meters.filter(({ code }) => given[code]?.trim())
  sent.value = rows.map(({ code }) => code)
  mutate(
    rows.map(({ code, grades }) => ({
      meter: code,
      at: new Date(now.value).toISOString(),
      value: givenValue(given[code]!, grades.length > 0),
    })),
  )
}
const sent = ref<string[]>([])
const refused = (code: string) =>
  receipt.value?.refused.find(({ index }) => sent.value[index] === code)?.reason
</script>

<template>
  <section v-if="work.meters.length && work.may_tick && !work.is_over" class="no-print" data-test="meters">
    <h2>Meters to read</h2>
    <form @submit.prevent="send">
      <div v-for="meter in work.meters" :key="meter.code" class="meter">
        <span class="what">
          <RouterLink :to="to(`/watch/${meter.code}`)">{{ meter.name }}</RouterLink>
          <span v-if="meter.last_told" class="quiet small">
            read {{ meter.last_told }} {{ ago(meter.last_at!, now) }}
          </span>
          <span v-if="refused(meter.code)" class="late small" role="alert">{{ refused(meter.code) }}</span>
        </span>
        <span class="value">
          <ReadingValue
            :model-value="given[meter.code] ?? ''"
            :grades="meter.grades"
            :label="`${meter.name} now`"
            :data-test="`read-${meter.code}`"
            @update:model-value="given[meter.code] = $event"
          />
          {{ unit(meter.unit) }}
        </span>
      </div>
      <ElButton
        native-type="submit"
        :loading="isPending"
        :disabled="!Object.values(given).some((text) => text.trim())"
        data-test="send-readings"
        >Enter what was read</ElButton
      >
    </form>
    <p v-if="receipt" class="small" data-test="read-receipt">
      {{ count(receipt.accepted, 'reading', 'readings') }} kept<template v-if="receipt.work_orders.length"
        >; raised or joined
        <RouterLink
          v-for="number in receipt.work_orders"
          :key="number"
          :to="to(`/work/${number}`)"
          class="in-text"
          >{{ number }}</RouterLink
        ></template
      >.
    </p>
    <ProblemNote :error="error" />
  </section>
</template>

<style scoped>
form {
  display: grid;
  gap: 6px;
  justify-items: start;
}

.meter {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  justify-content: space-between;
  width: 100%;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.what {
  display: grid;
}

.value {
  display: flex;
  gap: 8px;
  align-items: center;
}

.late {
  color: var(--worse);
}

.in-text {
  margin-right: 6px;
}
</style>
