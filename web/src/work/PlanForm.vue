<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import type { Schemas, WorkDetail } from '../common/api'
import { useChange } from '../common/change/useChange'
import ChoiceField from '../common/fields/ChoiceField.vue'
import JobSheetField from '../common/fields/JobSheetField.vue'
import InstantField from '../common/fields/InstantField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { kindWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import { crews as crewsAsked } from '../common/queries/plant'
import { usePeople } from '../common/usePeople'
import { changeWork } from './changes'

/** What an order says and plans, to be changed in place; only what was changed is sent. */
const props = defineProps<{ work: WorkDetail }>()
const emit = defineEmits<{ close: [] }>()
const { people } = usePeople()
const { data: crews } = useQuery(crewsAsked())

/** The fields as they were when the form opened. */
const was = {
  title: props.work.title,
  text: props.work.text,
  kind: props.work.kind,
  risk_rank: props.work.risk_rank,
  crew: props.work.crew ?? '',
  assignee: props.work.assignee ?? '',
  estimated_hours: props.work.estimated_hours ?? undefined,
  target_start: props.work.target_start ?? '',
  target_finish: props.work.target_finish ?? '',
  scheduled_start: props.work.scheduled_start ?? '',
  scheduled_end: props.work.scheduled_end ?? '',
  job_sheet: props.work.job?.code ?? '',
}
const given = reactive({ ...was })
const isOther = (field: keyof typeof was) => given[field] !== was[field]

/** What can be taken away, by its field. */
const clears: [keyof typeof was, Schemas['Clearable']][] = [
  ['crew', 'crew'],
  ['assignee', 'assignee'],
  ['estimated_hours', 'estimated_hours'],
  ['target_start', 'target_start'],
  ['target_finish', 'target_finish'],
  ['scheduled_start', 'schedule'],
  ['job_sheet', 'job_sheet'],
]
const changed = computed<Schemas['WorkChange']>(() => {
  const fields = (Object.keys(was) as (keyof typeof was)[]).filter((field) => isOther(field))
  const filled = fields.filter((field) => field === 'text' || (given[field] != null && given[field] !== ''))
  const body = Object.fromEntries(filled.map((field) => [field, given[field]])) as Schemas['WorkChange']
  // People are shown by their names, and sent by their codes.
  if (body.assignee) body.assignee = people.value.find((one) => one.name === body.assignee)?.code
  const clear = clears.filter(([field]) => fields.includes(field) && !filled.includes(field))
  if (clear.some(([, what]) => what === 'schedule')) delete body.scheduled_end
  return clear.length ? { ...body, clear: clear.map(([, what]) => what) } : body
})
const isSame = computed(() => !Object.keys(changed.value).length)
const { mutate, error, problem, isPending } = useChange(changeWork, () => emit('close'))
const wrong = (field: string) => problem.value?.of(field)
</script>

<template>
  <form
    v-arrive
    class="inset plan"
    data-test="plan-form"
    @submit.prevent="mutate({ number: work.number, ...changed })"
    @keydown.esc.stop="emit('close')"
  >
    <TextField
      v-model="given.title"
      class="whole"
      label="What is to be done"
      name="title"
      :wrong="wrong('title')"
    />
    <TextField v-model="given.text" class="whole" label="What else to know" long name="text" />
    <ChoiceField v-model="given.kind" label="Kind" name="kind">
      <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
    </ChoiceField>
    <ChoiceField v-model="given.risk_rank" label="Risk rank" name="rank">
      <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
    </ChoiceField>
    <ChoiceField v-model="given.crew" label="Crew" name="crew" :wrong="wrong('crew')">
      <option value="">no crew</option>
      <option v-for="one in crews" :key="one.code" :value="one.code">{{ one.name }}</option>
    </ChoiceField>
    <ChoiceField v-model="given.assignee" label="Person" name="assignee" :wrong="wrong('assignee')">
      <option value="">nobody</option>
      <option v-for="one in people" :key="one.code" :value="one.name">{{ one.name }}</option>
    </ChoiceField>
    <NumberField
      v-model="given.estimated_hours"
      label="Hours, estimated"
      name="estimated"
      :min="0"
      :wrong="wrong('estimated_hours')"
    />
    <InstantField v-model="given.target_start" label="Start by" name="target-start" />
    <InstantField v-model="given.target_finish" label="Finish by" name="target-finish" />
    <InstantField
      v-model="given.scheduled_start"
      label="Scheduled from"
      name="scheduled-start"
      :wrong="wrong('scheduled_start')"
    />
    <InstantField
      v-model="given.scheduled_end"
      label="to"
      name="scheduled-end"
      :wrong="wrong('scheduled_end')"
    />
    <JobSheetField v-model="given.job_sheet" class="whole" :wrong="wrong('job_sheet')" />
    <p class="whole">
      <ElButton
        type="primary"
        native-type="submit"
        :disabled="isSame"
        :loading="isPending"
        data-test="plan-save"
      >
        Save
      </ElButton>
      <button type="button" class="act" @click="emit('close')">Cancel</button>
    </p>
    <ProblemNote class="whole" :error="error" />
  </form>
</template>

<style scoped>
form.plan {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(178px, 1fr));
  align-items: start;
}

.whole {
  grid-column: 1 / -1;
}

p {
  display: flex;
  gap: 16px;
  align-items: center;
  margin: 0;
}
</style>
