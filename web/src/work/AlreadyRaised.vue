<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ago, date, stateWords } from '../common/format'
import { now } from '../common/installation'
import { useAddress } from '../common/useAddress'
import type { components } from '../generated/api'
import { alreadyRaised } from './queries/orders'

/** Open work that may be about what is being raised: found while it is typed, joined or linked with one press. */
const props = defineProps<{
  /** Code of the asset, or letters while it is looked for. */
  asset: string
  title: string
  /** Something is on its way. */
  busy: boolean
}>()
type Already = components['schemas']['AlreadyRow']
const emit = defineEmits<{ join: [number: number] }>()
/** Orders that the new one is linked to. */
const linked = defineModel<number[]>('linked', { required: true })
const { to } = useAddress()

/** As many as are read at a glance; the rest on request. */
const AT_A_GLANCE = 3
const isWhole = ref(false)

const asked = refDebounced(
  computed(() => ({ asset: props.asset.trim(), title: props.title.trim() })),
  150,
)
const { data } = useQuery(() => ({
  ...alreadyRaised(asked.value.asset, asked.value.title),
  enabled: asked.value.asset !== '',
  retry: false,
  placeholderData: keepPreviousData,
}))
// Letters of an asset that there is not yet find nothing.
const found = computed(() => (asked.value.asset ? data.value?.work_orders : undefined) ?? [])
const alike = computed(() => found.value.filter((one) => one.is_alike).length)
const shown = computed(() => (isWhole.value ? found.value : found.value.slice(0, AT_A_GLANCE)))
const more = computed(() => found.value.length - shown.value.length)

const where = { same: 'here', parent: 'on', part: 'on its part' } as const

function about(one: Already): string {
  const state = one.state === 'raised' ? [] : [stateWords[one.state]]
  if (one.waiting_for) state.push(`for ${one.waiting_for}`)
  const reports = one.reports === 1 ? 'reported again once' : `reported again ${one.reports} times`
  return [
    one.kin === 'same' ? where.same : `${where[one.kin]} ${one.asset.name}`,
    `raised ${ago(one.raised_at, now.value)} by ${one.raised_by}`,
    state.join(' '),
    one.reports ? reports : '',
    one.problem ?? '',
  ]
    .filter(Boolean)
    .join(' · ')
}

function toggle(number: number) {
  linked.value = linked.value.includes(number)
    ? linked.value.filter((one) => one !== number)
    : [...linked.value, number]
}
</script>

<template>
  <section v-if="found.length" aria-live="polite" data-test="already">
    <h3>
      <template v-if="alike">Already raised?</template>
      <template v-else>Open here</template>
      <span class="quiet small">
        {{ data?.count === 1 ? 'one open order' : `${data?.count} open orders` }} on it, above it and on its
        parts, of the last 90 days
      </span>
    </h3>
    <ul>
      <li
        v-for="one in shown"
        :key="one.number"
        :class="{ alike: one.is_alike }"
        :data-test="`already-${one.number}`"
      >
        <div>
          <RouterLink v-if="one.may_open" :to="to(`/work/${one.number}`)" target="_blank" class="title">{{
            one.title
          }}</RouterLink>
          <span v-else class="title">{{ one.title }}</span>
          <p class="quiet small" :title="date(one.raised_at)">{{ about(one) }}</p>
        </div>
        <ElButton
          size="small"
          :disabled="busy"
          :data-test="`join-${one.number}`"
          @click="emit('join', one.number)"
        >
          It is this
        </ElButton>
        <button
          type="button"
          class="act"
          :aria-pressed="linked.includes(one.number)"
          :data-test="`link-${one.number}`"
          @click="toggle(one.number)"
        >
          {{ linked.includes(one.number) ? 'Linked ✓' : 'Link' }}
        </button>
      </li>
    </ul>
    <button v-if="more" type="button" class="act small" @click="isWhole = true">{{ more }} more</button>
  </section>
</template>

<style scoped>
section {
  padding: 8px 12px;
  background: var(--paper-2);
  border-left: 3px solid var(--rule-2);
}

h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}

h3 .quiet {
  font-family: var(--sans);
  font-weight: 400;
}

ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 62px;
  gap: 10px;
  align-items: center;
  padding: 5px 0;
  border-top: 1px solid var(--rule);
}

li p {
  margin: 0;
}

.alike .title {
  font-weight: 600;
}

.act {
  padding: 4px 0;
}

@media (max-width: 560px) {
  li {
    grid-template-columns: auto 1fr;
  }

  li > div {
    grid-column: 1 / -1;
  }
}

/* Fingers, on a tablet too. */
@media (max-width: 760px), (pointer: coarse) {
  li a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
  }
}
</style>
