<script setup lang="ts">
import type { WorkDetail } from '../common/api'
import { useAddress } from '../common/useAddress'
import TickLines from './TickLines.vue'

/** The steps, permits and tools of the job sheet that an order follows, ticked off as they are done. */
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
