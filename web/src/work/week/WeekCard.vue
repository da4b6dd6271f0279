<script setup lang="ts">
import { EllipsisVertical } from '@lucide/vue'
import type { Schemas } from '../../common/api'
import { tenth } from '../../common/format'
import { useAddress } from '../../common/useAddress'
import MoveTo from './MoveTo.vue'
import type { Place } from './place'

/** An order on the board, or in the queue beside it. */
defineProps<{
  number: number
  title: string
  asset: Schemas['NamedAsset']
  rank: number
  hours?: number | null
  /** What more there is to say. */
  says?: string
  conflicts?: Schemas['Conflict'][]
  late?: boolean
  /** Where it lies; its crew alone where it has no day. */
  at: Place
  board: Schemas['WeekBoard']
  busy: boolean
}>()
const emit = defineEmits<{ move: [to: Place] }>()
/** Its menu is open. */
const open = defineModel<boolean>('open', { required: true })
const { to } = useAddress()

const words: Record<Schemas['Conflict'], string> = {
  waits: 'still waits',
  not_ready: 'not ready',
  past_window: 'past its window',
  parts_missing: 'parts not there',
  person_away: 'person away',
  asset_runs: 'asset runs',
}
</script>

<template>
  <div class="card" :class="{ late, movable: board.may_plan }" :data-test="`card-${number}`">
    <RouterLink
      :to="to(`/work/${number}`)"
      draggable="false"
      class="title"
      :title="`${title} – ${asset.name}, ${asset.code}`"
    >
      {{ title }}
    </RouterLink>
    <p class="quiet">
      <span>{{ asset.name }} · {{ asset.code }}</span>
    </p>
    <p>
      <span class="quiet">rank {{ rank }} · {{ hours == null ? 'no estimate' : `${tenth(hours)} h` }}</span>
      <span v-if="says" class="quiet">{{ says }}</span>
      <span v-for="one in conflicts" :key="one" class="worse">{{ words[one] }}</span>
    </p>
    <button
      v-if="board.may_plan"
      class="plain menu"
      :aria-label="`Move work ${number}`"
      :aria-expanded="open"
      title="Move to…"
      :data-test="`menu-${number}`"
      @click="open = !open"
    >
      <EllipsisVertical :size="15" />
    </button>
    <MoveTo
      v-if="open"
      :at="at"
      :crews="board.crews"
      :days="board.crews[0]?.days.map((day) => day.date) ?? []"
      :busy="busy"
      @move="emit('move', $event)"
      @close="open = false"
    />
  </div>
</template>

<style scoped>
.card {
  position: relative;
  margin-top: 4px;
  padding: 4px 20px 4px 7px;
  border-left: 3px solid var(--rule-2);
  background: var(--paper);
  font-size: 13px;
  line-height: 1.3;
}

.movable {
  cursor: grab;
  touch-action: none;
  user-select: none;
}

.late {
  border-left-color: var(--worse);
}

.title {
  display: -webkit-box;
  overflow: hidden;
  color: var(--ink);
  font-weight: 600;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  margin: 1px 0 0;
  font-size: 12px;
}

.worse {
  color: var(--worse);
  font-weight: 600;
}

.menu {
  position: absolute;
  top: 2px;
  right: 0;
  padding: 3px 2px;
  color: var(--ink-2);
}
</style>
