<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import type { Schemas } from '../common/api'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import TextField from '../common/fields/TextField.vue'
import { count, dateTime, kindWords } from '../common/format'
import { roundMap } from '../common/queries/jobs'
import RoundMap from '../common/RoundMap.vue'
import { saveJobSheet } from './changes'
import { bodyOf, draftOf, emptyDraft, emptyVisit } from './round'
import SheetFrame from './SheetFrame.vue'
import { usePlaces } from './usePlaces'
import { useSheet } from './useSheet'
import VisitEditor from './VisitEditor.vue'
import { walkWords } from './words'

/** One round, or a new one, with its map beside it. */
const props = defineProps<{ view?: Schemas['JobSheetView'] }>()
const { code, draft, wrong, frame } = useSheet({
  name: 'round',
  path: '/setup/rounds',
  view: () => props.view,
  empty: emptyDraft,
  draftOf,
  bodyOf,
  save: saveJobSheet,
})
const { move, dragged, drop } = usePlaces(
  () => draft.value.visits,
  (place) => `[data-test=visit-${place}]`,
)
const visited = refDebounced(
  computed(() => draft.value.visits.map(({ asset }) => asset.trim())),
  300,
)
const map = useQuery(() => ({
  ...roundMap(visited.value),
  enabled: visited.value.some(Boolean),
  placeholderData: keepPreviousData,
}))
</script>

<template>
  <SheetFrame v-bind="frame" :title="view ? view.title : 'New round'">
    <p v-if="view" class="quiet">
      {{ view.code }}, version {{ view.version }} by {{ view.by }} on {{ dateTime(view.at) }}; taken by
      {{ count(view.used, 'order', 'orders') }}. Orders keep the version that they took.
    </p>
    <div class="fields">
      <TextField v-if="!view" v-model="code" label="Code" name="round-code" :wrong="wrong('code')" />
      <TextField v-model="draft.title" class="two" label="Round" name="round-title" :wrong="wrong('title')" />
      <ChoiceField
        v-model="draft.status"
        label="Status"
        name="round-status"
        hint="only what is active is taken"
      >
        <option value="draft">draft</option>
        <option value="active">active</option>
        <option value="retired">retired</option>
      </ChoiceField>
      <ChoiceField v-model="draft.walk" label="Walked" name="round-walk">
        <option v-for="(word, walk) in walkWords" :key="walk" :value="walk">{{ word }}</option>
      </ChoiceField>
      <TextField
        v-model="draft.crew"
        label="Crew"
        name="round-crew"
        hint="the asset’s without it"
        :wrong="wrong('crew')"
      />
      <ChoiceField v-model="draft.kind" label="Kind" name="round-kind">
        <option value="">as the work says</option>
        <option v-for="(name, kind) in kindWords" :key="kind" :value="kind">{{ name }}</option>
      </ChoiceField>
      <NumberField v-model="draft.risk_rank" label="Rank" name="round-rank" :wrong="wrong('risk_rank')" />
      <TextField v-model="draft.text" class="all" label="What to know before" long name="round-text" />
    </div>
    <div class="both">
      <div>
        <h2>Visits</h2>
        <ol>
          <VisitEditor
            v-for="(visit, place) in draft.visits"
            :key="visit.key"
            v-model="draft.visits[place]!"
            :place="place"
            :is-last="place === draft.visits.length - 1"
            :wrong="wrong"
            draggable="true"
            @dragstart="dragged = place"
            @dragover.prevent
            @drop.prevent="drop(place)"
            @move="move(place, $event)"
            @remove="draft.visits.splice(place, 1)"
          />
        </ol>
        <button
          type="button"
          class="act"
          data-test="add-visit"
          @click="draft.visits.push(emptyVisit(draft.visits))"
        >
          Add a visit
        </button>
        <span v-if="wrong('steps')" class="wrong">{{ wrong('steps') }}</span>
      </div>
      <aside>
        <h2>Map</h2>
        <RoundMap v-if="map.data.value?.length" :lines="map.data.value" />
        <p v-else class="quiet">Say what is visited, and it is shown where that lies.</p>
      </aside>
    </div>
  </SheetFrame>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
}

.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px 16px;
  align-items: start;
  max-width: 940px;
  margin-top: 14px;
}

.two {
  grid-column: span 2;
}

.all {
  grid-column: 1 / -1;
}

.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(220px, 300px);
  gap: 28px;
  align-items: start;
}

ol {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}

.wrong {
  color: var(--worse);
}

@media (max-width: 1000px) {
  .fields,
  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .two {
    grid-column: auto;
  }
}
</style>
