<script setup lang="ts">
import type { WorkDetail } from '../common/api'
import { localDate, plain } from '../common/format'
import { useAddress } from '../common/useAddress'
import TickLines from './TickLines.vue'

/** The steps, permits and parts of the job sheet that an order follows, ticked off as they are done. */
defineProps<{ work: WorkDetail; job: NonNullable<WorkDetail['job']> }>()
const { to } = useAddress()
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
    <p v-if="job.trade || job.needs_outage" class="quiet">
      <template v-if="job.trade">For: {{ job.trade }}.</template>
      <template v-if="job.needs_outage"> {{ work.asset.name }} has to stand still for it.</template>
    </p>
    <p v-if="job.text" class="text">{{ job.text }}</p>
    <template v-if="job.permits.length">
      <h3>Before it begins</h3>
      <TickLines :work="work" :lines="job.permits" of="permit" />
    </template>
    <template v-if="job.steps.length">
      <h3>Steps</h3>
      <TickLines :work="work" :lines="job.steps" of="step" />
    </template>
    <template v-if="job.parts.length">
      <h3>Parts</h3>
      <ul data-test="job-parts">
        <li v-for="part in job.parts" :key="part.item">
          <span>{{ plain(part.quantity) }} × {{ part.item }}</span>
          <span v-if="part.code" class="quiet small">{{ part.code }}</span>
          <span v-if="part.place" class="quiet small">{{ part.place }}</span>
          <span v-if="part.on_hand == null" class="quiet small">not kept in the storeroom</span>
          <strong v-else-if="part.is_missing" class="late small">
            {{ part.on_hand ? `only ${plain(part.on_hand)} in stock` : 'none in stock' }},
            {{
              part.expected_on
                ? `there on ${localDate(part.expected_on)} if ordered now`
                : 'nobody knows for how long'
            }}
          </strong>
          <span v-else class="quiet small">{{ plain(part.on_hand) }} in stock</span>
        </li>
      </ul>
    </template>
    <dl>
      <div v-if="job.tools.length">
        <dt>Tools</dt>
        <dd v-for="tool in job.tools" :key="tool">{{ tool }}</dd>
      </div>
    </dl>
    <p class="sign">Done by ____________________ on ____________</p>
  </section>
</template>

<style scoped>
h3 {
  margin: 10px 0 2px;
  font-size: 14px;
}

.late {
  color: var(--worse);
}

ul {
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
