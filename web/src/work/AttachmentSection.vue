<script setup lang="ts">
import { FileText } from '@lucide/vue'
import { computed, ref } from 'vue'
import type { WorkDetail } from '../common/api'
import { dateTime } from '../common/format'
import AddPhotos from '../common/photos/AddPhotos.vue'
import { useSending } from '../common/photos/useSending'
import { useWaitingPictures } from '../common/photos/useWaitingPictures'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import { attachToWork, takeAttachmentAway } from './changes'
import type { ShownAttachment } from './queued'

/** Photos and papers that stand with an order; a photo opens over the page. */
const props = defineProps<{ work: WorkDetail }>()
type Row = ShownAttachment
const rows = computed<Row[]>(() => props.work.attachments)
const waiting = useWaitingPictures(
  () => rows.value.flatMap((row) => row.waits ?? []),
  () => '',
)
const url = (row: Row, small: boolean) =>
  row.waits
    ? waiting.value[row.waits]
    : `/api/v1/work-orders/${props.work.number}/attachments/${row.id}${small ? '?small=true' : ''}`
const isPhoto = (row: Row) => row.width != null && url(row, true) !== undefined
const photos = computed(() => rows.value.filter(isPhoto))
const papers = computed(() => rows.value.filter((row) => !isPhoto(row)))
const open = ref<number>()
const shown = computed(() => photos.value.find((row) => row.id === open.value))
/** The photo that many steps on, around the end. */
function step(by: number) {
  const at = photos.value.findIndex((row) => row.id === open.value)
  open.value = photos.value.at((at + by) % photos.value.length)?.id
}
const attach = useChange(attachToWork)
const takeAway = useChange(takeAttachmentAway, () => (open.value = undefined))
const { under, give, again, leave } = useSending(({ file, name }) =>
  attach.mutate({ number: props.work.number, attachments: [{ file, name }] }),
)
const away = ({ id, name }: Row) => takeAway.mutate({ number: props.work.number, id, name })
</script>

<template>
  <section v-if="work.attachments.length || work.may_attach" class="no-print" data-test="attachments">
    <h2>
      Photos and papers
      <span v-if="work.attachments.length" class="quiet small">{{ work.attachments.length }}</span>
    </h2>
    <ul v-if="photos.length" class="photos">
      <li v-for="row in photos" :key="row.id">
        <button
          :aria-label="`Show ${row.name}`"
          :title="`${row.name}, ${row.by}, ${dateTime(row.at)}`"
          data-test="attachment"
          @click="open = row.id"
        >
          <img :src="url(row, true)" :alt="row.name" loading="lazy" />
        </button>
      </li>
    </ul>
    <ul v-if="papers.length" class="papers">
      <li v-for="row in papers" :key="row.id">
        <span v-if="row.waits"><FileText :size="16" aria-hidden="true" /> {{ row.name }}</span>
        <a v-else :href="url(row, false)" download
          ><FileText :size="16" aria-hidden="true" /> {{ row.name }}</a
        >
        <span class="quiet small">{{ row.by }}, {{ dateTime(row.at) }}</span>
        <button v-if="row.may_take_away" class="act no-print" @click="away(row)">Take away</button>
      </li>
    </ul>
    <AddPhotos
      v-if="work.may_attach"
      class="add no-print"
      :under="under"
      @give="give"
      @again="again"
      @leave="leave"
    />
    <ProblemNote :error="attach.error.value ?? takeAway.error.value" />
    <!-- There only while it is open: Esc closes what lies above the page first. -->
    <ElDialog
      v-if="shown"
      :model-value="true"
      :title="shown.name"
      width="min(1100px, 96vw)"
      align-center
      @close="open = undefined"
    >
      <figure tabindex="-1" @keydown.left="step(-1)" @keydown.right="step(1)">
        <img :src="url(shown, false)" :alt="shown.name" data-test="whole-photo" />
        <figcaption>
          <span class="quiet">{{ shown.by }}, {{ dateTime(shown.at) }}</span>
          <template v-if="photos.length > 1">
            <button class="act" @click="step(-1)">Before</button>
            <button class="act" @click="step(1)">Next</button>
          </template>
          <button v-if="shown.may_take_away" class="act" data-test="take-away" @click="away(shown)">
            Take away
          </button>
        </figcaption>
      </figure>
    </ElDialog>
  </section>
</template>

<style scoped>
.add {
  margin-top: 10px;
}

ul {
  list-style: none;
  margin: 10px 0;
  padding: 0;
}

.photos {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.photos button {
  display: block;
  padding: 0;
  border: 0;
  background: none;
  cursor: zoom-in;
}

.photos img {
  display: block;
  width: 148px;
  height: 112px;
  object-fit: cover;
  border: 1px solid var(--rule-2);
  border-radius: 3px;
}

.papers li,
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}

figure {
  margin: 0;
  outline: none;
}

figure img {
  display: block;
  max-width: 100%;
  max-height: 72vh;
  margin: 0 auto 10px;
}
</style>
