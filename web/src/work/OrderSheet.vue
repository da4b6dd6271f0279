<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { date, dateTime, hours, kindWords, localDate, plain, stateWords, unit } from '../common/format'

/** An order on paper: what to do, with boxes to tick, room to write, and a place to sign. */
const props = defineProps<{ work: WorkDetail }>()

/** Why it exists, in a sentence. */
const why = computed(() => {
  const { why, cycle, follows } = props.work
  const first = why?.occurrences[0]
  if (why && first)
    return `${why.meter_name} read ${first.shown} ${unit(why.unit)} on ${dateTime(first.entered_at)}.`
  if (cycle) return `Upkeep ${cycle.name}, cycle ${cycle.number}, due on ${localDate(cycle.due)}.`
  if (follows) return `Follows on from ${follows.number}, ${follows.title}.`
  return `Raised by ${props.work.raised_by} on ${date(props.work.raised_at)}.`
})
const facts = computed(() => [
  { name: 'Kind', value: kindWords[props.work.kind] },
  { name: 'Rank', value: String(props.work.risk_rank) },
  { name: 'Window ends', value: date(props.work.window_end) },
  { name: 'Crew', value: [props.work.crew, props.work.assignee].filter(Boolean).join(', ') || 'none' },
  {
    name: 'Scheduled',
    value: props.work.scheduled_start ? dateTime(props.work.scheduled_start) : 'no day yet',
  },
  {
    name: 'Hours',
    value: props.work.estimated_hours == null ? 'no estimate' : hours(props.work.estimated_hours),
  },
])
/** What was not planned was taken already. */
const planned = computed(() => props.work.parts.filter((part) => part.quantity > 0))
const blocks = computed(() => {
  const { permits, job } = props.work
  const all: { name: string; lines: Schemas['JobLine'][] }[] = [
    { name: 'Before it begins', lines: [...permits, ...(job?.permits ?? [])] },
    { name: 'Steps', lines: job?.steps ?? [] },
  ]
  return all.filter((block) => block.lines.length)
})
</script>

<template>
  <article data-test="order-sheet">
    <div>
      <p class="small quiet">{{ work.above.map((one) => one.name).join(' › ') }}</p>
      <h1>
        <span class="number">{{ work.number }}</span> {{ work.title }}
      </h1>
      <p>
        <strong>{{ work.asset.name }}</strong> {{ work.asset.code }} · {{ stateWords[work.state] }}
      </p>
    </div>
    <dl>
      <div v-for="fact in facts" :key="fact.name">
        <dt>{{ fact.name }}</dt>
        <dd>{{ fact.value }}</dd>
      </div>
    </dl>
    <p class="text">{{ why }}</p>
    <p v-if="work.text" class="text">{{ work.text }}</p>
    <p v-if="work.job?.text" class="text">{{ work.job.text }}</p>
    <section v-for="block in blocks" :key="block.name">
      <h2>{{ block.name }}</h2>
      <ul>
        <li v-for="(line, place) in block.lines" :key="place">
          <span class="box" :class="{ ticked: line.ticked_at }" />
          <span>
            {{ line.text }}
            <span v-if="line.asset" class="quiet">{{ line.asset_name ?? line.asset }}</span>
            <span v-for="meter in line.meters" :key="meter" class="read"
              >{{ meter }} reads <i class="blank"
            /></span>
          </span>
          <span class="num">{{ line.hours ? `${hours(line.hours)} h` : '' }}</span>
        </li>
      </ul>
    </section>
    <section v-if="planned.length">
      <h2>Parts</h2>
      <ul>
        <li v-for="part in planned" :key="part.item">
          <span class="box" />
          <span>
            {{ plain(part.quantity) }} × {{ part.item }}
            <span class="quiet">{{ [part.code, part.place].filter(Boolean).join(', ') }}</span>
          </span>
          <span class="num">{{ part.is_missing ? 'not in stock' : '' }}</span>
        </li>
      </ul>
    </section>
    <section v-if="work.job?.tools.length">
      <h2>Tools</h2>
      <p>{{ work.job.tools.join(' · ') }}</p>
    </section>
    <section>
      <h2>Done</h2>
      <table>
        <thead>
          <tr>
            <th>Date</th>
            <th>Who</th>
            <th>Hours</th>
            <th>Found and done, parts used</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in 4" :key="row">
            <td v-for="cell in 4" :key="cell" />
          </tr>
        </tbody>
      </table>
      <p v-if="work.asks_for_failure" class="codes">
        Problem <i class="blank" /> Cause <i class="blank" /> Remedy <i class="blank" />
      </p>
      <p class="codes">Signed <i class="blank long" /> on <i class="blank" /></p>
    </section>
  </article>
</template>

<style scoped>
article {
  max-width: 780px;
  margin: 0 0 28px;
  padding-top: 14px;
  border-top: 2px solid var(--ink);
}

h1 {
  margin: 2px 0;
}

.number {
  font-variant-numeric: tabular-nums;
  color: var(--ink-2);
}

h2 {
  margin: 14px 0 2px;
  font-size: 15px;
  border-bottom: 1px solid var(--ink);
}

p {
  margin: 0;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 28px;
  margin: 10px 0;
}

dt {
  font-size: 12px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

.text {
  max-width: 74ch;
  white-space: pre-line;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 20px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}

.box {
  width: 14px;
  height: 14px;
  margin-top: 3px;
  border: 1.5px solid var(--ink);
}

.ticked {
  background: var(--ink);
}

.read {
  margin-left: 14px;
}

.blank {
  display: inline-block;
  width: 110px;
  height: 1em;
  border-bottom: 1px solid var(--ink);
}

.long {
  width: 240px;
}

table {
  width: 100%;
  margin-top: 6px;
  border-collapse: collapse;
}

th {
  font-size: 12px;
  font-weight: 400;
  color: var(--ink-2);
  text-align: left;
}

td {
  height: 26px;
  border: 1px solid var(--rule);
}

th:nth-child(-n + 3) {
  width: 15%;
}

.codes {
  margin-top: 16px;
}

@media print {
  article {
    border-top: 0;
    break-after: page;
  }
}
</style>
