<script setup lang="ts">
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { type CodebookView, type CodeNode } from '../common/api'
import ProblemNote from '../common/ProblemNote.vue'
import NewerNote from '../common/draft/NewerNote.vue'
import { useChange } from '../common/change/useChange'
import { saveCodebook } from './changes'
import { useDraft } from '../common/draft/useDraft'
import CodeBranch from './CodeBranch.vue'

const props = defineProps<{ view: CodebookView }>()

const copy = (nodes: CodeNode[]) => JSON.parse(JSON.stringify(nodes)) as CodeNode[]
const {
  draft: problems,
  changed,
  newer,
  takeTheirs,
  keepMine,
  basedOn,
} = useDraft<CodebookView, CodeNode[]>({
  theirs: () => props.view,
  of: (view) => view.code,
  version: (view) => view.change,
  draftOf: (view) => copy(view.problems),
  same: (mine, view) => JSON.stringify(mine) === JSON.stringify(view.problems),
  name: () => `the codebook ${props.view.name}`,
})

const text = ref('')
const letters = computed(() => text.value.trim().toLowerCase())
const matches = (node: CodeNode): boolean =>
  `${node.code} ${node.name}`.toLowerCase().includes(letters.value) || (node.below ?? []).some(matches)
const found = computed(() => (letters.value ? problems.value.filter(matches).length : problems.value.length))

const { mutate, error, isPending, reset } = useChange(saveCodebook, () =>
  ElMessage.success('The codebook is kept.'),
)
const book = () => ({
  code: props.view.code,
  body: {
    name: props.view.name,
    class: props.view.class,
    status: props.view.status,
    problems: problems.value,
  },
})

function takeBack() {
  reset()
  takeTheirs()
}
function goOn() {
  reset()
  keepMine()
}

function add() {
  problems.value.push({ code: '', name: '', renews: false, status: 'active', below: [] })
}
</script>

<template>
  <div class="head">
    <div>
      <h1>{{ view.name }}</h1>
      <p class="quiet">Problems, their causes, and the remedies that helped</p>
    </div>
    <input
      v-model="text"
      class="line"
      type="search"
      placeholder="Search all three levels"
      aria-label="Search codes"
    />
  </div>
  <div v-if="changed || error" class="save">
    <span
      >Changes are not kept yet. A code that was used and is taken away is retired, and stays in the
      history.</span
    >
    <ElButton type="primary" :loading="isPending" data-test="save-codebook" @click="mutate(book, basedOn())"
      >Keep the changes</ElButton
    >
    <button class="act" @click="takeBack">Take back</button>
    <ProblemNote :error="error" />
    <NewerNote v-if="newer" words="this codebook" @theirs="takeBack" @mine="goOn" />
  </div>
  <p v-if="!found" class="quiet">No code has “{{ text }}” in it.</p>
  <ul>
    <template v-for="(node, index) in problems" :key="index">
      <CodeBranch
        v-if="!letters || matches(node)"
        v-model="problems[index]!"
        :level="0"
        path=""
        :used="view.used"
        :letters="letters"
        @remove="problems.splice(index, 1)"
      />
    </template>
  </ul>
  <button class="act" data-test="add-problem" @click="add">Add a problem</button>
</template>

<style scoped>
.head p {
  margin: 3px 0 14px;
}

.head input {
  width: 240px;
  align-self: start;
}

.save {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
  padding: 10px 12px;
  margin-bottom: 12px;
  background: var(--paper-2);
}

ul {
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
  border-top: 1.5px solid var(--ink);
}
</style>
