<script setup lang="ts">
import { whole } from '../common/format'
import { Check } from '@lucide/vue'
import { computed } from 'vue'
import type { components } from '../generated/api'
import { useAddress } from '../common/useAddress'

const props = defineProps<{ counts: components['schemas']['Counts'] }>()
const { to } = useAddress()

const steps = computed(() => [
  {
    done: props.counts.assets > 0,
    name: 'The tree',
    says: 'What stands where, from the site down to the parts. Import it from a file, or add the top by hand.',
    links: [
      { to: '/setup/files/assets', text: 'Import assets' },
      { to: '/setup/assets/new', text: 'Add an asset' },
    ],
    have: `${whole(props.counts.assets)} assets`,
  },
  {
    done: props.counts.meters > 0,
    name: 'The meters',
    says: 'What is read on an asset: running hours, vibration, wear, a grade from an inspection.',
    links: [
      { to: '/setup/files/meters', text: 'Import meters' },
      { to: '/setup/meters/new', text: 'Add a meter' },
    ],
    have: `${whole(props.counts.meters)} meters`,
  },
  {
    done: props.counts.has_readings,
    name: 'Their readings',
    says: 'The past from a file, the present from a gateway or by hand.',
    links: [{ to: '/setup/files/readings', text: 'Import readings' }],
    have: 'there are readings',
  },
  {
    done: props.counts.ladders > 0,
    name: 'The first limit',
    says: 'Open a meter and drag a rung to where work should begin by itself.',
    links: [{ to: '/watch', text: 'Choose a meter' }],
    have: `${whole(props.counts.ladders)} meters with limits`,
  },
])
const next = computed(() => steps.value.findIndex((step) => !step.done))
</script>

<template>
  <h1>
    {{ next < 0 ? 'Limits are set, and nothing stands past one' : 'Four steps to work that raises itself' }}
  </h1>
  <p class="quiet">
    A limit on a meter raises work, the work comes back with its cost, downtime and codes, and the tally shows
    what it adds up to.
  </p>
  <ol>
    <li v-for="(step, index) in steps" :key="step.name" :class="{ next: index === next }" data-test="step">
      <span class="number"
        ><Check v-if="step.done" :size="19" aria-label="done" /><template v-else>{{
          index + 1
        }}</template></span
      >
      <div>
        <h2>{{ step.name }}</h2>
        <p>
          {{ step.says }} <span v-if="step.done" class="quiet">So far {{ step.have }}.</span>
        </p>
        <RouterLink v-for="link in step.links" :key="link.to" :to="to(link.to)" class="act">{{
          link.text
        }}</RouterLink>
      </div>
    </li>
  </ol>
</template>

<style scoped>
ol {
  margin: 26px 0 0;
  padding: 0;
  list-style: none;
  max-width: 720px;
}

li {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  padding: 16px 0;
  border-top: 1px solid var(--rule);
}

.number {
  font: 600 22px var(--serif);
  color: var(--ink-3);
}

.next .number {
  color: var(--accent);
}

p {
  margin: 3px 0 6px;
}

.act {
  margin-right: 20px;
}
</style>
