<script setup lang="ts">
import { figures } from '../common/queries/tally'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { components } from '../generated/api'
import { whole, ago, date, dateTime, duration, money, moneyShort, reading } from '../common/format'
import { installation, now } from '../common/installation'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import Sparkline from '../common/chart/Sparkline.vue'
import { FIRST_PERIOD, useAddress } from '../common/useAddress'

const props = defineProps<{ start: components['schemas']['Start'] }>()
const { to } = useAddress()

/** What maintenance cost the whole plant in the last twelve months, against the year before. */
const INDICATOR = 'cost_total'
const tally = useQuery(figures({ indicators: INDICATOR, period: FIRST_PERIOD, depth: 0 }))
const figure = computed(() => {
  const row = tally.data.value?.rows[0]
  if (!row) return undefined
  const value = row.figures[INDICATOR]?.value ?? 0
  const before = row.before[INDICATOR]?.value
  const change = before ? Math.round(((value - before) / before) * 100) : undefined
  return { asset: row.asset, name: row.name, value, change }
})
const risk = computed(() => props.start.risk)
const lesson = computed(() => props.start.lesson)
const side = computed(() => (risk.value?.alarm.side === 'low' ? 'below' : 'above'))
</script>

<template>
  <header>
    <h1>{{ installation.name }}, {{ date(now) }}</h1>
    <p class="quiet">
      Limits on {{ whole(start.counts.ladders) }} of {{ whole(start.counts.meters) }} meters watch
      {{ whole(start.counts.assets) }} assets. Three things to see, a press each.
    </p>
  </header>
  <ol>
    <li v-if="risk" data-test="first-risk">
      <p class="kicker">A risk that stands now</p>
      <div class="what">
        <p class="sentence">
          <SeverityStrokes :severity="risk.alarm.severity" />
          {{ risk.alarm.asset.name }}: {{ risk.alarm.meter_name.toLowerCase() }} at {{ risk.alarm.shown
          }}<template v-if="risk.alarm.setpoint != null"
            >, {{ side }} {{ reading(risk.alarm.setpoint, risk.alarm.unit) }}</template
          >, since {{ ago(risk.alarm.entered_at, now) }}.
        </p>
        <p class="quiet">
          {{ risk.alarm.asset.code }}.
          <template v-if="risk.alarm.work_order"
            >The limit raised work {{ risk.alarm.work_order }} by itself, once.</template
          >
          <template v-else>It was recorded; no work was asked for.</template>
        </p>
        <RouterLink :to="to(`/watch/${risk.alarm.meter}`)" class="act"
          >See the trend and its limits</RouterLink
        >
        <RouterLink v-if="risk.alarm.work_order" :to="to(`/work/${risk.alarm.work_order}`)" class="act">
          Open the work and its why
        </RouterLink>
      </div>
      <Sparkline v-if="risk.spark.length" :values="risk.spark" />
    </li>
    <li v-if="lesson" data-test="first-limit">
      <p class="kicker">A limit that was missing</p>
      <div class="what">
        <p class="sentence">
          On {{ date(lesson.failed_at) }}: {{ lesson.title }}. {{ duration(lesson.down_ms) }} down,
          {{ money(lesson.cost) }} {{ installation.currency }}.
        </p>
        <p class="quiet">
          {{ lesson.meter_name }} of the {{ lesson.asset.name.toLowerCase() }} rose long before, and has no
          limit to this day.
        </p>
        <RouterLink :to="to(`/watch/${lesson.meter}`)" class="act" data-test="set-missing"
          >Set one</RouterLink
        >
        <RouterLink :to="to(`/work/${lesson.work_order}`)" class="act">Open the repair</RouterLink>
      </div>
      <Sparkline v-if="lesson.spark.length" :values="lesson.spark" />
    </li>
    <li v-if="figure" data-test="first-figure">
      <p class="kicker">A figure that explains itself</p>
      <div class="what">
        <p class="sentence">
          Maintenance cost {{ figure.name }} {{ moneyShort(figure.value) }} {{ installation.currency }} in the
          last twelve months<template v-if="figure.change !== undefined"
            >, {{ Math.abs(figure.change) }} % {{ figure.change < 0 ? 'less' : 'more' }} than in those
            before</template
          >.
        </p>
        <p class="quiet">Every figure opens into its formula, its source and the rows that add up to it.</p>
        <RouterLink
          :to="to('/tally', { why: `${INDICATOR}~${figure.asset}` })"
          class="act"
          data-test="see-why"
        >
          See why
        </RouterLink>
        <RouterLink :to="to('/tally', { by: INDICATOR, desc: 'yes' })" class="act">See where</RouterLink>
      </div>
    </li>
  </ol>
  <p class="quiet small foot">
    It is {{ dateTime(now) }} here. Press <kbd>?</kbd> for the keys, <kbd>/</kbd> to jump anywhere.
  </p>
</template>

<style scoped>
header p {
  margin: 3px 0 0;
}

ol {
  margin: 26px 0 0;
  padding: 0;
  list-style: none;
  max-width: 900px;
}

li {
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr) 136px;
  gap: 0 22px;
  padding: 20px 0 22px;
  border-top: 1.5px solid var(--ink);
}

.kicker {
  margin: 4px 0 0;
  font-size: 14px;
  font-weight: 600;
  color: var(--accent);
}

.sentence {
  margin: 0;
  font: 500 20px/1.35 var(--serif);
}

.what .quiet {
  margin: 5px 0 8px;
}

.act {
  margin-right: 22px;
}

.spark {
  align-self: center;
}

.foot {
  margin-top: 18px;
}

kbd {
  font: 600 13px var(--sans);
  padding: 0 5px;
  border: 1px solid var(--rule-2);
  border-radius: 2px;
}

@media (max-width: 760px) {
  li {
    grid-template-columns: minmax(0, 1fr);
    gap: 8px;
  }
}
</style>
