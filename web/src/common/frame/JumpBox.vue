<script setup lang="ts">
import { search } from '../queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { onKeyStroke, refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { type Hit } from '../api'
import { useAddress } from '../useAddress'
import { commands } from './commands'
import { isCommand } from './keys'
import { keySheet } from './useKeys'
import { workspaces } from './workspaces'

const text = ref('')
const asked = refDebounced(text, 120)
const open = ref(false)
const chosen = ref(0)
const input = useTemplateRef<HTMLInputElement>('input')
const router = useRouter()
const { to, change } = useAddress()

const { data, error, refetch } = useQuery(() => ({
  ...search(asked.value),
  enabled: asked.value.trim() !== '',
}))

const kinds: Record<string, string> = {
  asset: 'asset',
  meter: 'meter',
  work_order: 'work',
  codebook: 'codebook',
  code: 'code',
  screen: 'screen',
  command: 'do',
}
const hits = computed<Hit[]>(() => {
  const letters = text.value.trim().toLowerCase()
  if (!letters) return []
  const screens = workspaces
    .filter((workspace) => workspace.name.toLowerCase().startsWith(letters))
    .map((workspace) => ({ kind: 'screen', code: workspace.path, name: workspace.name }))
  const words = letters.split(/\s+/)
  const named = commands
    .filter((command) => words.every((word) => command.name.toLowerCase().includes(word)))
    .map((command) => ({ kind: 'command', code: command.name, name: command.name }))
  return [...screens, ...named.slice(0, 6), ...(data.value ?? [])]
})
watch(hits, () => (chosen.value = 0))

function go(hit: Hit | undefined) {
  if (!hit) return
  open.value = false
  text.value = ''
  input.value?.blur()
  if (hit.kind === 'asset') change({ scope: hit.code })
  else if (hit.kind === 'screen') router.push(to(hit.code))
  else if (hit.kind === 'command') begin(hit.name)
  else
    router.push(
      to(
        { meter: '/watch/', work_order: '/work/', codebook: '/codes/', code: '/codes/' }[hit.kind] + hit.code,
      ),
    )
}

function begin(name: string) {
  const command = commands.find((one) => one.name === name)
  if (command?.path) router.push(to(command.path, command.query))
  else keySheet.value = true
}

function move(by: number) {
  const count = hits.value.length
  if (count) chosen.value = (chosen.value + by + count) % count
}

function focus(event: KeyboardEvent) {
  event.preventDefault()
  input.value?.focus()
}

onKeyStroke('/', (event) => isCommand(event) && focus(event))
onKeyStroke('k', (event) => (event.ctrlKey || event.metaKey) && focus(event))
</script>

<template>
  <div class="jump">
    <input
      ref="input"
      v-model="text"
      class="line"
      type="search"
      placeholder="Jump to…  /"
      aria-label="Jump to an asset, meter, work order, codebook or command"
      role="combobox"
      :aria-activedescendant="open && hits.length ? `jump-hit-${chosen}` : undefined"
      :aria-expanded="open && hits.length > 0"
      aria-controls="jump-hits"
      @focus="open = true"
      @blur="open = false"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter="go(hits[chosen])"
      @keydown.esc.stop="input?.blur()"
    />
    <ul v-if="open && text.trim()" id="jump-hits" role="listbox">
      <li
        v-for="(hit, index) in hits"
        :id="`jump-hit-${index}`"
        :key="`${hit.kind} ${hit.code} ${hit.name} ${index}`"
        role="option"
        :aria-selected="index === chosen"
        @mousedown.prevent="go(hit)"
        @mousemove="chosen = index"
      >
        <span class="kind">{{ kinds[hit.kind] }}</span>
        <span class="name">{{ hit.name }}</span>
        <span v-if="hit.kind !== 'command'" class="code">{{
          hit.place ? `${hit.place} · ${hit.code}` : hit.code
        }}</span>
      </li>
      <li v-if="error" class="none" role="alert">
        {{ error.message }}
        <button type="button" class="act" data-test="try-again" @mousedown.prevent="refetch()">
          Try again
        </button>
      </li>
      <li v-else-if="!hits.length && data" class="none">Nothing has “{{ text }}” in its code or name.</li>
    </ul>
  </div>
</template>

<style scoped>
.jump {
  position: relative;
  width: 172px;
}

input {
  min-height: 31px;
  padding: 3px 9px;
}

ul {
  position: absolute;
  right: 0;
  top: 38px;
  z-index: 20;
  width: 460px;
  max-width: 92vw;
  margin: 0;
  padding: 5px 0;
  list-style: none;
  background: var(--paper);
  border: 1px solid var(--ink);
}

li {
  display: grid;
  grid-template-columns: 68px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 5px 12px;
  cursor: pointer;
}

li[aria-selected='true'] {
  background: var(--accent-soft);
}

.kind,
.code {
  font-size: 13px;
  color: var(--ink-2);
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.none {
  display: block;
  color: var(--ink-2);
  cursor: default;
}
</style>
