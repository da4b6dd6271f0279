<script setup lang="ts">
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import { dateTime, hours, plain } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { tickJob } from './changes'

/** The steps, permits and parts of the job sheet that an order follows, ticked off as they are done. */
const props = defineProps<{ work: WorkDetail; job: NonNullable<WorkDetail['job']> }>()
const { to } = useAddress()
const tick = useChange(tickJob)

type Line = Schemas['JobLine']
const kinds = [
  { key: 'permit', name: 'Before it begins' },
  { key: 'step', name: 'Steps' },
] as const
const linesOf = (key: 'permit' | 'step'): Line[] => (key === 'step' ? props.job.steps : props.job.permits)
const set = (key: 'permit' | 'step', place: number, event: Event) =>
  tick.mutate({
    number: props.work.number,
    body: { [key]: place, done: (event.target as HTMLInputElement).checked },
  })
</script>

<template>
  <section data-test="job">
    <h2>
      Job sheet
      <span class="quiet small">
        <RouterLink v-if="work.may_plan" :to="to(`/setup/job-sheets/${job.code}`)">{{
          job.title
        }}</RouterLink>
        <template v-else>{{ job.title }}</template>, version {{ job.version
        }}<template v-if="job.is_newer">; there is a newer one</template>
      </span>
    </h2>
    <p v-if="job.trade" class="quiet">For: {{ job.trade }}</p>
    <p v-if="job.text" class="text">{{ job.text }}</p>
    <template v-for="kind in kinds" :key="kind.key">
      <template v-if="linesOf(kind.key).length">
        <h3>{{ kind.name }}</h3>
        <ol>
          <li v-for="(line, place) in linesOf(kind.key)" :key="place">
            <label :class="{ done: line.ticked_at }">
              <input
                type="checkbox"
                :checked="line.ticked_at != null"
                :disabled="!job.may_tick || work.is_over || tick.isPending.value"
                :data-test="`tick-${kind.key}-${place}`"
                @change="set(kind.key, place, $event)"
              />
              <span class="said">{{ line.text }}</span>
            </label>
            <span v-if="line.asset" class="quiet small">{{ line.asset_name ?? line.asset }}</span>
            <RouterLink v-for="meter in line.meters" :key="meter" :to="to(`/watch/${meter}`)" class="small">
              read {{ meter }}
            </RouterLink>
            <span v-if="line.hours" class="quiet small">{{ hours(line.hours) }} h</span>
            <span v-if="line.ticked_at" class="quiet small"
              >{{ line.ticked_by }}, {{ dateTime(line.ticked_at) }}</span
            >
          </li>
        </ol>
      </template>
    </template>
    <dl>
      <div v-if="job.parts.length">
        <dt>Parts</dt>
        <dd v-for="part in job.parts" :key="part.item">{{ plain(part.quantity) }} × {{ part.item }}</dd>
      </div>
      <div v-if="job.tools.length">
        <dt>Tools</dt>
        <dd v-for="tool in job.tools" :key="tool">{{ tool }}</dd>
      </div>
    </dl>
    <p class="sign">Done by ____________________ on ____________</p>
    <ProblemNote :error="tick.error.value" />
  </section>
</template>

<style scoped>
h2 .small {
  font-family: var(--sans);
  font-weight: 400;
}

h3 {
  margin: 10px 0 2px;
  font-size: 14px;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

label {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

input {
  width: 17px;
  height: 17px;
  transform: translateY(3px);
}

.done .said {
  color: var(--ink-2);
  text-decoration: line-through;
}

.text {
  margin: 6px 0;
  white-space: pre-line;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 40px;
  margin: 10px 0 0;
}

dt {
  font-size: 13px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

.sign {
  display: none;
  margin-top: 22px;
}

@media print {
  .sign {
    display: block;
  }
}
</style>
