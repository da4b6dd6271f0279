<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '../common/api'
import { ago, dateTime } from '../common/format'
import { installation, now } from '../common/installation'
import { asset } from '../common/queries/plant'
import { useAddress } from '../common/useAddress'
import { headlines } from './queries/looks'

/** The risk in a few sentences, for a phone in the hand and a wall across the room. */
const { scope, to } = useAddress()
const EVERY = 10_000
const { data, error, dataUpdatedAt, isError } = useQuery(() => ({
  ...headlines({ scope: scope.value || undefined }),
  refetchInterval: EVERY,
  refetchIntervalInBackground: true,
  retry: false,
}))
const of = useQuery(() => ({ ...asset(scope.value), enabled: scope.value !== '' }))
const clock = ref(Date.now())
useIntervalFn(() => (clock.value = Date.now()), 5_000)
/** What is shown is no longer what is. */
const isOld = computed(
  () => isError.value || (dataUpdatedAt.value > 0 && clock.value - dataUpdatedAt.value > 3 * EVERY),
)
const age = computed(() => ago(new Date(dataUpdatedAt.value).toISOString(), clock.value))
const words: Record<Schemas['VerdictOn'], string> = { bad: 'act', watch: 'watch', good: 'good' }
const marks: Record<Schemas['VerdictOn'], string> = { bad: '!', watch: '–', good: '✓' }
const link = (row: Schemas['HeadlineRow']) => {
  if (!row.ask) return undefined
  const { filter } = row.ask
  return to('/reports/work', { ask: JSON.stringify({ filter }) })
}
</script>

<template>
  <div class="wall">
    <p v-if="isOld" class="old" role="alert" data-test="headlines-old">
      No connection: this is from {{ dataUpdatedAt ? age : 'nowhere yet' }}.
    </p>
    <h1>{{ of.data.value?.name ?? installation.name }} <span class="quiet">now</span></h1>
    <ol v-if="data">
      <li
        v-for="row in data.headlines"
        :key="row.kind"
        :class="row.verdict"
        :data-test="`headline-${row.kind}`"
      >
        <component :is="link(row) ? 'RouterLink' : 'span'" :to="link(row)" class="line">
          <span class="mark" :title="words[row.verdict]">{{ marks[row.verdict] }}</span>
          <span class="says"
            >{{ row.text }}<span class="unseen">: {{ words[row.verdict] }}</span></span
          >
        </component>
      </li>
    </ol>
    <p v-else-if="error" class="old" role="alert">The headlines can’t be read now.</p>
    <p class="quiet foot">
      {{ dateTime(data?.at ?? now) }}. Open corrective and condition-based work; press a sentence to see it.
      It refreshes itself.
    </p>
  </div>
</template>

<style scoped>
.wall {
  display: grid;
  align-content: start;
  gap: clamp(12px, 2.4vh, 30px);
}

h1 {
  font-size: clamp(24px, 4.4vw, 64px);
}

ol {
  display: grid;
  gap: clamp(8px, 1.8vh, 22px);
  margin: 0;
  padding: 0;
  list-style: none;
}

.line {
  display: grid;
  grid-template-columns: clamp(34px, 5vw, 76px) 1fr;
  gap: clamp(8px, 1.6vw, 26px);
  align-items: center;
  padding: clamp(8px, 1.6vh, 22px) clamp(10px, 1.4vw, 24px);
  border-left: clamp(6px, 0.9vw, 14px) solid var(--tone);
  background: var(--paper-2);
  color: var(--ink);
  text-decoration: none;
}

a.line:hover .says {
  text-decoration: underline;
}

.mark {
  display: grid;
  place-items: center;
  aspect-ratio: 1;
  border-radius: 50%;
  background: var(--tone);
  color: var(--paper);
  font: 700 clamp(18px, 3vw, 46px) / 1 var(--serif);
}

.says {
  font: 600 clamp(18px, 2.7vw, 46px) / 1.2 var(--serif);
}

.bad {
  --tone: var(--serious);
}

.watch {
  --tone: var(--notice);
}

.good {
  --tone: var(--better);
}

.old {
  margin: 0;
  padding: 10px 14px;
  background: var(--serious);
  color: var(--paper);
  font-size: clamp(16px, 1.8vw, 28px);
}

.foot {
  font-size: clamp(13px, 1.2vw, 20px);
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>
