<script setup lang="ts">
import { computed } from 'vue'
import type { CodeNode } from '../common/api'

const props = defineProps<{
  /** 0 for a problem, 1 for a cause, 2 for a remedy. */
  level: number
  /** Codes above, each followed by a slash. */
  path: string
  /** Uses by path. */
  used: Record<string, number>
  /** What is searched for, in small letters. */
  letters: string
}>()
const emit = defineEmits<{ remove: [] }>()
const node = defineModel<CodeNode>({ required: true })

const names = ['problem', 'cause', 'remedy']
const uses = computed(() => props.used[props.path + node.value.code] ?? 0)
const isNew = computed(() => node.value.code === '' || !(props.path + node.value.code in props.used))
const most = computed(() => Math.max(1, ...Object.values(props.used)))
const hit = computed(
  () => props.letters !== '' && `${node.value.code} ${node.value.name}`.toLowerCase().includes(props.letters),
)

function add() {
  node.value.below ??= []
  node.value.below.push({ code: '', name: '', renews: false, status: 'active', below: [] })
}
</script>

<template>
  <li :class="[`level-${level}`, { retired: node.status === 'retired' }]">
    <div class="row" :class="{ hit }">
      <input
        v-model="node.code"
        class="code"
        :aria-label="`Code of the ${names[level]}`"
        placeholder="CODE"
        :readonly="!isNew && uses > 0"
        size="7"
      />
      <input
        v-model="node.name"
        class="name"
        :aria-label="`Name of the ${names[level]} ${node.code}`"
        :placeholder="`Name of the ${names[level]}`"
      />
      <label v-if="level === 2" class="small quiet renews">
        <input v-model="node.renews" type="checkbox" /> renews the item
      </label>
      <span class="uses">
        <span class="bar" :style="{ width: `${(uses / most) * 70}px` }" />
        <span class="count">{{ uses || '' }}</span>
      </span>
      <span class="acts">
        <button v-if="level < 2" class="act" @click="add">Add a {{ names[level + 1] }}</button>
        <button
          v-if="uses"
          class="act"
          @click="node.status = node.status === 'retired' ? 'active' : 'retired'"
        >
          {{ node.status === 'retired' ? 'Use again' : 'Retire' }}
        </button>
        <button v-else class="act" @click="emit('remove')">Remove</button>
      </span>
    </div>
    <ul v-if="node.below?.length">
      <CodeBranch
        v-for="(_, index) in node.below"
        :key="index"
        v-model="node.below[index]!"
        :level="level + 1"
        :path="`${path}${node.code}/`"
        :used="used"
        :letters="letters"
        @remove="node.below!.splice(index, 1)"
      />
    </ul>
  </li>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.row {
  position: relative;
  display: flex;
  align-items: center;
  gap: 8px;
  border-bottom: 1px solid var(--rule);
  min-height: 30px;
}

.row:hover {
  background: var(--paper-2);
}

.level-1 > .row {
  padding-left: 30px;
}

.level-2 > .row {
  padding-left: 60px;
}

.level-0 > .row .name {
  font: 600 16px var(--serif);
}

.level-2 > .row .name {
  color: var(--ink-2);
}

.hit {
  background: var(--accent-soft);
}

.retired > .row input {
  text-decoration: line-through;
  color: var(--ink-3);
}

input.code,
input.name {
  border: 0;
  background: transparent;
  color: inherit;
  font: inherit;
  padding: 3px 4px;
}

input.code {
  width: 86px;
  font-size: 13px;
  color: var(--ink-2);
}

input.name {
  flex: 1;
  min-width: 90px;
}

.renews {
  white-space: nowrap;
}

.uses {
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 6px;
  width: 104px;
}

.bar {
  height: 8px;
  background: var(--rule-2);
}

.count {
  width: 26px;
  text-align: right;
}

.acts {
  display: flex;
  justify-content: flex-end;
  gap: 12px;
  position: absolute;
  right: 4px;
  padding-left: 14px;
  background: var(--paper-2);
  opacity: 0;
}

.row:hover .acts,
.row:focus-within .acts {
  opacity: 1;
}

.acts .act {
  padding: 0;
  font-size: 13px;
}

@container screen (max-width: 900px) {
  .row {
    flex-wrap: wrap;
    gap: 0 8px;
  }

  .level-1 > .row {
    padding-left: 14px;
  }

  .level-2 > .row {
    padding-left: 28px;
  }

  /* There is no room for a bar beside the count. */
  .uses {
    width: auto;
  }

  .bar {
    display: none;
  }
}
</style>
