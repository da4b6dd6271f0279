<script setup lang="ts">
import { letterKeys } from './keys'
import { workspaces } from './workspaces'

const open = defineModel<boolean>({ required: true })
const groups: { name: string; keys: [string, string][] }[] = [
  {
    name: 'Everywhere',
    keys: [
      ['/ or Ctrl K', 'jump to an asset, meter, work order, codebook or command'],
      ['[  ]', 'the period before, the period after'],
      ['\\', 'show or hide the asset tree'],
      ['Esc', 'close what is open'],
      ['?', 'this sheet'],
    ],
  },
  {
    name: 'Go to',
    keys: [
      ['g h', 'the first page'],
      ...workspaces.map((one): [string, string] => [`g ${one.key}`, one.name]),
    ],
  },
  {
    name: 'In lists and in the tree',
    keys: [
      ['j  k', 'next row, row before'],
      ['Enter', 'open the row'],
      ['↑  ↓  →  ←', 'through the tree: up, down, into a branch, out of it'],
    ],
  },
  {
    name: 'On a trend',
    keys: [
      ['↑  ↓', 'move the rung that has the focus'],
      ['wheel', 'zoom around the pointer'],
    ],
  },
]
</script>

<template>
  <ElDialog v-model="open" title="Keys" width="min(640px, 96vw)">
    <label class="check">
      <input v-model="letterKeys" type="checkbox" name="letter-keys" /> Keys without Ctrl do something. Off,
      this sheet is found by <kbd>Ctrl K</kbd> and “Keys”.
    </label>
    <div class="groups">
      <section v-for="group in groups" :key="group.name">
        <h3>{{ group.name }}</h3>
        <dl>
          <template v-for="[key, what] in group.keys" :key="key">
            <dt>
              <kbd>{{ key }}</kbd>
            </dt>
            <dd>{{ what }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </ElDialog>
</template>

<style scoped>
.groups {
  columns: 2 260px;
  column-gap: 30px;
}

section {
  break-inside: avoid;
  margin-bottom: 16px;
}

dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 14px;
  margin: 6px 0 0;
}

dd {
  margin: 0;
}

kbd {
  font: 600 13px var(--sans);
  white-space: pre;
  padding: 0 6px;
  border: 1px solid var(--rule-2);
  border-radius: 2px;
}
</style>
