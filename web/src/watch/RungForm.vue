<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import FormField from '../common/fields/FormField.vue'
import JobSheetField from '../common/fields/JobSheetField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { X } from '@lucide/vue'
import { useMutation } from '@tanstack/vue-query'
import { computed, useId } from 'vue'
import type { MeterDetail, Problem, Rung } from '../common/api'
import { severities } from '../generated/words'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { usePeople } from '../common/usePeople'
import PlanField from './PlanField.vue'
import type { Edit } from './ladder'

const props = defineProps<{
  meter: MeterDetail
  /** Its place in the ladder, for the server's field paths. */
  place: number
  problem?: Problem
  /** Asks the server for the rung that an edit makes. */
  edit: (edit: Edit) => Promise<Rung>
}>()
const emit = defineEmits<{ remove: [] }>()
const rung = defineModel<Rung>({ required: true })

const wrong = computed(() => {
  const of = `rungs[${props.place}].`
  return (
    props.problem?.fields.filter((error) => error.field.startsWith(of)).map((error) => error.reason) ?? []
  )
})

const saysId = useId()

const byReset = computed(() => rung.value.reset != null)

const { mutate: change, error: unchanged } = useMutation({
  mutationFn: (edit: Edit) => props.edit(edit),
  onSuccess: (made) => (rung.value = made),
})
/** The same distance the other way of saying it. */
const turn = () => change({ edit: 'turn', rung: props.place })

/** Seconds as they are kept, in a unit that people say them in. */
function spanOf(key: 'on_delay_seconds' | 'off_delay_seconds' | 'over_seconds', seconds: number) {
  return computed({
    get: () => (rung.value[key] ?? 0) / seconds,
    set: (typed) => (rung.value[key] = Math.round((typed ?? 0) * seconds)),
  })
}
const onDelay = spanOf('on_delay_seconds', 60)
const offDelay = spanOf('off_delay_seconds', 60)
const overHours = spanOf('over_seconds', 3_600)

/** What it looks at; what only one series has comes and goes with it. */
const on = computed({
  get: () => rung.value.on ?? 'value',
  set: (on) => change({ edit: 'look_at', rung: props.place, on }),
})
const { people } = usePeople()
const jobSheet = computed({
  get: () => rung.value.response.job_sheet ?? '',
  set: (code) => (rung.value.response.job_sheet = code || undefined),
})
const tell = computed({
  get: () => rung.value.response.tell ?? [],
  set: (codes) => (rung.value.response.tell = codes),
})
</script>

<template>
  <div
    class="rung"
    role="group"
    :aria-label="`${rung.severity} ${rung.side}`"
    :aria-describedby="wrong.length ? saysId : undefined"
    :data-test="`rung-${rung.side}-${rung.severity}`"
  >
    <div class="first">
      <SeverityStrokes :severity="rung.severity" />
      <select v-model="rung.severity" class="line severity" aria-label="Severity">
        <option v-for="severity in severities" :key="severity" :value="severity">{{ severity }}</option>
      </select>
      <NumberField
        v-if="rung.side !== 'grade'"
        v-model="rung.setpoint"
        class="set"
        name="setpoint"
        unseen
        :label="`Setpoint of ${rung.severity} ${rung.side}`"
      />
      <select v-model="rung.response.kind" class="line" aria-label="Response">
        <option value="raise">raises work</option>
        <option value="bring_forward">brings upkeep forward</option>
        <option value="notify">tells people</option>
        <option value="record">is recorded</option>
      </select>
      <button
        type="button"
        class="plain"
        :aria-label="`Remove ${rung.severity} ${rung.side}`"
        @click="emit('remove')"
      >
        <X :size="15" />
      </button>
    </div>
    <div :id="saysId">
      <p v-for="line in wrong" :key="line" class="wrong" role="alert">{{ line }}</p>
    </div>
    <ProblemNote :error="unchanged" />
    <div v-if="rung.side === 'grade'" class="grades">
      <label v-for="grade in meter.grades" :key="grade">
        <input v-model="rung.grades" type="checkbox" :value="grade" /> {{ grade }}
      </label>
    </div>
    <details>
      <summary>
        <template v-if="rung.side === 'grade'">Work and delays</template>
        <template v-else-if="on === 'rate'">per hour, deadband {{ rung.deadband ?? 0 }}</template>
        <template v-else-if="on === 'change'"
          >from {{ rung.baseline }}, deadband {{ rung.deadband ?? 0 }}</template
        >
        <template v-else-if="byReset"
          >left {{ rung.side === 'low' ? 'above' : 'below' }} {{ rung.reset }}</template
        >
        <template v-else>deadband {{ rung.deadband ?? 0 }}</template>
        <template v-if="rung.response.kind === 'raise' && rung.response.title"
          >: {{ rung.response.title }}</template
        >
      </summary>
      <div class="more">
        <ChoiceField v-if="rung.side !== 'grade'" v-model="on" label="Looks at" name="on">
          <option value="value">the value</option>
          <option value="rate">its rate per hour</option>
          <option value="change">its change from a baseline</option>
        </ChoiceField>
        <NumberField v-if="on === 'change'" v-model="rung.baseline" label="Baseline" name="baseline" />
        <NumberField
          v-else-if="on === 'rate'"
          v-model="overHours"
          label="Taken over at least, h"
          :min="0"
          name="over"
        />
        <span v-else-if="rung.side !== 'grade'"></span>
        <NumberField
          v-if="rung.side !== 'grade' && !byReset"
          v-model="rung.deadband"
          label="Deadband"
          :min="0"
          name="deadband"
        />
        <NumberField v-if="byReset" v-model="rung.reset" label="Reset value" name="reset" />
        <button v-if="rung.side !== 'grade'" type="button" class="act" @click="turn">
          {{ byReset ? 'Use a deadband' : 'Use a reset value' }}
        </button>
        <NumberField v-model="onDelay" label="On-delay, min" :min="0" />
        <NumberField v-model="offDelay" label="Off-delay, min" :min="0" />
        <template v-if="rung.response.kind === 'raise'">
          <TextField v-model="rung.response.title" class="wide" label="Title of the work" name="title" />
          <TextField v-model="rung.response.text" class="wide" label="Text of the work" long name="text" />
          <NumberField
            v-model="rung.response.start_within_days"
            label="Start within, days"
            :min="0"
            name="start"
          />
          <ChoiceField v-model="rung.response.risk_rank" label="Rank" name="rank">
            <option :value="undefined">by severity and criticality</option>
            <option v-for="n in 5" :key="n" :value="n">{{ n }}</option>
          </ChoiceField>
          <NumberField v-model="rung.response.estimated_hours" label="Hours" :min="0" name="hours" />
          <JobSheetField v-model="jobSheet" class="wide" />
        </template>
        <PlanField v-if="rung.response.kind === 'bring_forward'" v-model="rung.response.plan" class="wide" />
        <template v-if="rung.response.kind !== 'record'">
          <FormField v-slot="{ field }" class="wide" label="People to tell">
            <ElSelect :id="field.id" v-model="tell" multiple filterable placeholder="nobody">
              <ElOption v-for="one in people" :key="one.code" :value="one.code" :label="one.name" />
            </ElSelect>
          </FormField>
          <ChoiceField
            v-model="rung.response.decides"
            class="wide"
            label="Whose decision it is"
            name="decides"
          >
            <option :value="undefined">nobody’s in particular</option>
            <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
          </ChoiceField>
        </template>
        <TextField v-model="rung.cause" class="wide" label="Likely cause" name="cause" />
        <TextField
          v-model="rung.consequence"
          class="wide"
          label="Consequence if nothing is done"
          name="consequence"
        />
        <TextField v-model="rung.what_to_do" class="wide" label="What to do about it" name="what-to-do" />
      </div>
    </details>
  </div>
</template>

<style scoped>
.rung {
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.first {
  display: grid;
  grid-template-columns: 22px 88px minmax(64px, 1fr) 108px 18px;
  gap: 6px;
  align-items: center;
}

.first .line {
  min-height: 30px;
  padding: 2px 5px;
  font-size: 14px;
}

.set :deep(input) {
  min-height: 30px;
  padding: 2px 5px;
  font-size: 14px;
  text-align: right;
  font-weight: 600;
}

.plain {
  display: grid;
  color: var(--ink-3);
}

.grades {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 4px 0 0 28px;
  font-size: 14px;
}

summary {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  margin: 3px 0 0 28px;
  font-size: 13px;
  color: var(--ink-2);
  cursor: pointer;
}

.more {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  align-items: end;
  margin: 8px 0 6px 28px;
}

.wide {
  grid-column: 1 / -1;
}

.wrong {
  margin: 3px 0 0 28px;
}
</style>
