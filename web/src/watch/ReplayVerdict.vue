<script setup lang="ts">
import { computed } from 'vue'
import type { components } from '../generated/api'
import { type Ladder, type MeterDetail } from '../common/api'
import { whole, count, date, dateTime, hours, money } from '../common/format'
import { installation } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import RungFinder from './RungFinder.vue'
import GivenLines from './GivenLines.vue'
import JudgedBy from './JudgedBy.vue'
import { rungName } from './ladder'

const props = defineProps<{
  meter: MeterDetail
  replay?: components['schemas']['ReplayView']
  error?: unknown
  /** The ladder is edited, not the one in force. */
  edited: boolean
}>()
const draft = defineModel<Ladder>({ required: true })
const { to } = useAddress()

const names = computed(() => draft.value.rungs.map(rungName))
const nuisance = computed(() => (props.replay?.warnings ?? []).filter((warning) => warning.nuisance))
const usual = computed(() => props.replay?.usual_work)
</script>

<template>
  <section v-if="draft.rungs.length" class="replay" data-test="replay">
    <h2 class="ruled">
      {{ edited ? 'What these limits would have done' : 'What the limits in force come to' }}
      <span class="quiet small">in this period, run over its readings</span>
    </h2>
    <ProblemNote :error="error" />
    <div v-if="replay" :class="{ before: error }">
      <p class="verdict" aria-live="polite" data-test="verdict">{{ replay.verdict }}</p>
      <JudgedBy :offered="replay.problems" />
      <ul v-if="replay.failures.length" class="failures">
        <li v-for="failure in replay.failures.slice(0, 8)" :key="failure.work_order">
          <strong :class="failure.verdict === 'caught' ? 'caught' : 'missed'">{{ failure.fate }}</strong>
          <RouterLink :to="to(`/work/${failure.work_order}`)">{{ failure.title }}</RouterLink>
          <span class="quiet">{{ date(failure.at) }}</span>
        </li>
        <li v-if="replay.failures.length > 8" class="quiet">{{ replay.failures.length - 8 }} more.</li>
      </ul>
      <dl>
        <div v-for="(entered, place) in replay.entered" :key="place">
          <dt>{{ names[place] }}</dt>
          <dd>entered {{ count(entered, 'time', 'times') }}</dd>
        </div>
        <div>
          <dt>Work</dt>
          <dd>{{ whole(replay.work_count) }} raised, {{ replay.joined }} joined, {{ replay.held }} held</dd>
        </div>
        <div v-if="usual && usual.from">
          <dt>It would have taken</dt>
          <dd>
            {{ hours(replay.work_hours) }} h, {{ money(Math.round(replay.work_cost)) }}
            {{ installation.currency }}
          </dd>
        </div>
        <div v-if="replay.averted">
          <dt>Averted</dt>
          <dd>{{ count(replay.averted, 'warning', 'warnings') }} whose work found something</dd>
        </div>
        <div>
          <dt>Warnings</dt>
          <dd>
            {{ whole(replay.warning_count) }} of
            {{ count(replay.spell_count, 'spell', 'spells') }}
          </dd>
        </div>
        <div v-if="replay.chattering">
          <dt>Chattering</dt>
          <dd>{{ count(replay.chattering, 'time', 'times') }}</dd>
        </div>
      </dl>
      <details v-if="nuisance.length" class="small" data-test="nuisance">
        <summary class="quiet">When they were a nuisance</summary>
        <p v-for="warning in nuisance.slice(0, 20)" :key="warning.from" class="quiet">
          {{ dateTime(warning.from) }} to {{ warning.to ? dateTime(warning.to) : 'now'
          }}<template v-if="warning.nuisance > 1">, {{ warning.nuisance }} times</template>
        </p>
        <p v-if="nuisance.length > 20" class="quiet">{{ nuisance.length - 20 }} more.</p>
      </details>
      <RungFinder v-model="draft" :of="{ meter: meter.code }" :unit="meter.unit" />
      <GivenLines :lines="replay.assumptions" />
    </div>
  </section>
</template>

<style scoped>
.replay {
  margin-top: 16px;
}

/* Of the limits before those that cannot be. */
.before {
  opacity: 0.5;
}

.failures {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}

.failures li {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 26px;
}

.failures strong {
  min-width: 112px;
}

.caught {
  color: var(--better);
}

.missed {
  color: var(--worse);
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 28px;
  margin: 0 0 8px;
}

dt {
  font-size: 13px;
  color: var(--ink-2);
}

dd {
  margin: 0;
}

details p {
  margin: 3px 0;
}
</style>
