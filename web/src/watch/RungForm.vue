<script setup lang="ts">
import { X } from '@lucide/vue'
import { useMutation } from '@tanstack/vue-query'
import { computed, useId } from 'vue'
import type { MeterDetail, Problem, Rung } from '../common/api'
import { severities } from '../generated/words'
import ProblemNote from '../common/ProblemNote.vue'
import SeverityStrokes from '../common/SeverityStrokes.vue'
import { usePeople } from '../common/usePeople'
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

/** A typed number, or nothing for an empty field. */
function numeric(key: 'setpoint' | 'deadband' | 'reset' | 'baseline') {
  return computed({
    get: () => (rung.value[key] == null ? '' : String(rung.value[key])),
    set: (text) => (rung.value[key] = text === '' ? undefined : Number(text)),
  })
}
const setpoint = numeric('setpoint')
const deadband = numeric('deadband')
const reset = numeric('reset')
const baseline = numeric('baseline')
const byReset = computed(() => rung.value.reset != null)

const { mutate: change, error: unchanged } = useMutation({
  mutationFn: (edit: Edit) => props.edit(edit),
  onSuccess: (made) => (rung.value = made),
})
/** The same distance the other way of saying it. */
const turn = () => change({ edit: 'turn', rung: props.place })

function delay(key: 'on_delay_seconds' | 'off_delay_seconds') {
  return computed({
    get: () => String((rung.value[key] ?? 0) / 60),
    set: (minutes) => (rung.value[key] = Math.round(Number(minutes) * 60)),
  })
}
const onDelay = delay('on_delay_seconds')
const offDelay = delay('off_delay_seconds')

/** What it looks at; what only one series has comes and goes with it. */
const on = computed({
  get: () => rung.value.on ?? 'value',
  set: (on) => change({ edit: 'look_at', rung: props.place, on }),
})
const overHours = computed({
  get: () => String((rung.value.over_seconds ?? 0) / 3_600),
  set: (hours) => (rung.value.over_seconds = Math.round(Number(hours) * 3_600)),
})
const { people } = usePeople()
const tell = computed({
  get: () => rung.value.response.tell ?? [],
  set: (codes) => (rung.value.response.tell = codes),
})
function optional(key: 'risk_rank' | 'estimated_hours') {
  return computed({
    get: () => String(rung.value.response[key] ?? ''),
    set: (text) => (rung.value.response[key] = text === '' ? undefined : Number(text)),
  })
}
const rank = optional('risk_rank')
const hours = optional('estimated_hours')
const startWithin = computed({
  get: () => String(rung.value.response.start_within_days ?? ''),
  set: (days) => (rung.value.response.start_within_days = days === '' ? undefined : Number(days)),
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
      <input
        v-if="rung.side !== 'grade'"
        v-model="setpoint"
        class="line set"
        type="number"
        step="any"
        name="setpoint"
        :aria-label="`Setpoint of ${rung.severity} ${rung.side}`"
      />
      <select v-model="rung.response.kind" class="line" aria-label="Response">
        <option value="raise">raises work</option>
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
        <label v-if="rung.side !== 'grade'" class="field">
          Looks at
          <select v-model="on" class="line" name="on">
            <option value="value">the value</option>
            <option value="rate">its rate per hour</option>
            <option value="change">its change from a baseline</option>
          </select>
        </label>
        <label v-if="on === 'change'" class="field">
          Baseline <input v-model="baseline" class="line" type="number" step="any" name="baseline" />
        </label>
        <label v-else-if="on === 'rate'" class="field">
          Taken over at least, h
          <input v-model="overHours" class="line" type="number" min="0" step="any" name="over" />
        </label>
        <span v-else-if="rung.side !== 'grade'"></span>
        <label v-if="rung.side !== 'grade' && !byReset" class="field">
          Deadband <input v-model="deadband" class="line" type="number" step="any" min="0" name="deadband" />
        </label>
        <label v-if="byReset" class="field">
          Reset value <input v-model="reset" class="line" type="number" step="any" name="reset" />
        </label>
        <button v-if="rung.side !== 'grade'" type="button" class="act" @click="turn">
          {{ byReset ? 'Use a deadband' : 'Use a reset value' }}
        </button>
        <label class="field"
          >On-delay, min <input v-model="onDelay" class="line" type="number" min="0" step="any"
        /></label>
        <label class="field"
          >Off-delay, min <input v-model="offDelay" class="line" type="number" min="0" step="any"
        /></label>
        <template v-if="rung.response.kind === 'raise'">
          <label class="field wide">
            Title of the work <input v-model="rung.response.title" class="line" name="title" />
          </label>
          <label class="field wide">
            Text of the work <textarea v-model="rung.response.text" class="line" name="text" />
          </label>
          <label class="field">
            Start within, days <input v-model="startWithin" class="line" type="number" min="0" name="start" />
          </label>
          <label class="field">
            Rank
            <select v-model="rank" class="line" name="rank">
              <option value="">by severity and criticality</option>
              <option v-for="n in 5" :key="n" :value="String(n)">{{ n }}</option>
            </select>
          </label>
          <label class="field">
            Hours <input v-model="hours" class="line" type="number" min="0" step="any" name="hours" />
          </label>
        </template>
        <template v-if="rung.response.kind !== 'record'">
          <label class="field wide">
            People to tell
            <ElSelect
              v-model="tell"
              multiple
              filterable
              placeholder="nobody"
              :aria-label="`People to tell of ${rung.severity} ${rung.side}`"
            >
              <ElOption v-for="one in people" :key="one.code" :value="one.code" :label="one.name" />
            </ElSelect>
          </label>
          <label class="field wide">
            Whose decision it is
            <select v-model="rung.response.decides" class="line" name="decides">
              <option :value="undefined">nobody’s in particular</option>
              <option v-for="one in people" :key="one.code" :value="one.code">{{ one.name }}</option>
            </select>
          </label>
        </template>
        <label class="field wide"
          >Likely cause <input v-model="rung.cause" class="line" name="cause"
        /></label>
        <label class="field wide"
          >Consequence if nothing is done <input v-model="rung.consequence" class="line" name="consequence"
        /></label>
        <label class="field wide"
          >What to do about it <input v-model="rung.what_to_do" class="line" name="what-to-do"
        /></label>
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

.set {
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
