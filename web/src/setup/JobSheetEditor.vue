<script setup lang="ts">
import { X } from '@lucide/vue'
import type { Schemas } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { count, dateTime, kindWords } from '../common/format'
import { saveJobSheet } from './changes'
import { bodyOf, draftOf, emptyDraft } from './job'
import SheetFrame from './SheetFrame.vue'
import { useSheet } from './useSheet'

/** One job sheet, or a new one. */
const props = defineProps<{ view?: Schemas['JobSheetView'] }>()
const { code, draft, wrong, frame } = useSheet({
  name: 'job sheet',
  path: '/setup/job-sheets',
  view: () => props.view,
  empty: emptyDraft,
  draftOf,
  bodyOf,
  save: saveJobSheet,
})
</script>

<template>
  <SheetFrame v-bind="frame" class="narrow" :title="view ? view.title : 'New job sheet'">
    <p v-if="view" class="quiet">
      {{ view.code }}, version {{ view.version }} by {{ view.by }} on {{ dateTime(view.at) }}; taken by
      {{ count(view.used, 'order', 'orders') }}. Orders keep the version that they took.
    </p>
    <div class="fields">
      <TextField v-if="!view" v-model="code" label="Code" name="job-code" :wrong="wrong('code')" />
      <TextField v-model="draft.title" class="two" label="Job" name="job-title" :wrong="wrong('title')" />
      <ChoiceField
        v-model="draft.status"
        label="Status"
        name="job-status"
        hint="only what is active is taken"
      >
        <option value="draft">draft</option>
        <option value="active">active</option>
        <option value="retired">retired</option>
      </ChoiceField>
      <TextField
        v-model="draft.trade"
        label="Trade"
        name="job-trade"
        hint="such as electrician, high voltage"
      />
      <TextField
        v-model="draft.crew"
        label="Crew"
        name="job-crew"
        hint="the asset’s without it"
        :wrong="wrong('crew')"
      />
      <NumberField
        v-model="draft.estimated_hours"
        label="Hours"
        name="job-hours"
        :wrong="wrong('estimated_hours')"
      />
      <ChoiceField v-model="draft.kind" label="Kind" name="job-kind">
        <option value="">as the work says</option>
        <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
      </ChoiceField>
    </div>
    <h2>Steps</h2>
    <ol>
      <li v-for="(step, place) in draft.steps" :key="place" :data-test="`step-${place}`">
        <TextField
          v-model="step.text"
          :label="`Step ${place + 1}`"
          name="step-text"
          :wrong="wrong(`steps[${place}].text`)"
        />
        <TextField
          v-model="step.asset"
          label="Asset"
          name="step-asset"
          placeholder="the order’s"
          :wrong="wrong(`steps[${place}].asset`)"
        />
        <TextField
          v-model="step.meters"
          label="Meters to read"
          name="step-meters"
          placeholder="codes"
          :wrong="wrong(`steps[${place}].meters[0]`)"
        />
        <TextField
          v-model="step.check_sheet"
          label="Check sheet"
          name="step-check"
          placeholder="code"
          :wrong="wrong(`steps[${place}].check_sheet`)"
        />
        <NumberField
          v-model="step.hours"
          label="Hours"
          name="step-hours"
          :wrong="wrong(`steps[${place}].hours`)"
        />
        <button
          type="button"
          class="gone"
          :aria-label="`Remove step ${place + 1}`"
          @click="draft.steps.splice(place, 1)"
        >
          <X :size="15" />
        </button>
      </li>
    </ol>
    <button
      type="button"
      class="act"
      data-test="add-step"
      @click="draft.steps.push({ text: '', asset: '', meters: '', check_sheet: '', hours: undefined })"
    >
      Add a step
    </button>
    <h2>Parts</h2>
    <ul>
      <li v-for="(part, place) in draft.parts" :key="place" class="part">
        <TextField v-model="part.item" label="Part" name="part-item" :wrong="wrong(`parts[${place}].item`)" />
        <NumberField
          v-model="part.quantity"
          label="Quantity"
          name="part-quantity"
          :wrong="wrong(`parts[${place}].quantity`)"
        />
        <button type="button" class="gone" aria-label="Remove part" @click="draft.parts.splice(place, 1)">
          <X :size="15" />
        </button>
      </li>
    </ul>
    <button type="button" class="act" @click="draft.parts.push({ item: '', quantity: 1 })">Add a part</button>
    <div class="fields">
      <TextField v-model="draft.tools" class="two" label="Tools" long name="job-tools" hint="one a line" />
      <TextField
        v-model="draft.permits"
        class="two"
        label="Permits and isolations"
        long
        name="job-permits"
        hint="one a line; each is ticked off on the order"
      />
      <label class="all check">
        <input v-model="draft.needs_outage" type="checkbox" name="job-outage" />
        The asset has to stand still for it
      </label>
      <TextField
        v-model="draft.check_sheets"
        class="two"
        label="Check sheets"
        name="job-checks"
        hint="codes; they are filled in on the order"
        :wrong="wrong('check_sheets[0]')"
      />
      <TextField v-model="draft.text" class="all" label="What else to know" long name="job-text" />
    </div>
  </SheetFrame>
</template>

<style scoped>
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 14px;
}

.narrow {
  max-width: 940px;
}

h2 {
  margin: 22px 0 6px;
  padding-bottom: 4px;
  border-bottom: 1.5px solid var(--ink);
}

.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px 16px;
  align-items: start;
  margin-top: 14px;
}

.two {
  grid-column: span 2;
}

.all {
  grid-column: 1 / -1;
}

ol,
ul {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 120px 160px 120px 64px 20px;
  gap: 10px;
  align-items: end;
  padding: 4px 0 8px;
  border-bottom: 1px solid var(--rule);
}

.part {
  grid-template-columns: minmax(0, 420px) 90px 20px;
}

.gone {
  padding: 8px 0;
  color: var(--ink-3);
  background: none;
  border: 0;
  cursor: pointer;
}

@media (max-width: 900px) {
  .fields,
  li {
    grid-template-columns: minmax(0, 1fr);
  }

  .two {
    grid-column: auto;
  }
}
</style>
