<script setup lang="ts">
import { computed } from 'vue'
import { count, dateTime } from '../format'
import { now } from '../installation'
import { isCut } from './network'
import { anyway, isOwn, leaveOut, queue, told } from './queue'
import { useQueue } from './useQueue'

/** That there is no network, what waits for it, and what the server asks about things that were done without it. */
const { send } = useQueue()
const own = computed(() => queue.value.filter(isOwn))
const refused = computed(() => own.value.filter((one) => one.refused))
const waiting = computed(() => own.value.length - refused.value.length)
const others = computed(() => queue.value.length - own.value.length)
const standing = computed(() => {
  const things = count(waiting.value, 'thing waits', 'things wait')
  if (waiting.value && isCut.value) return `${things} to be sent, and nothing is lost.`
  if (waiting.value && refused.value.length) return `${things} until you have answered:`
  if (waiting.value) return `${things} to be sent …`
  return 'What is shown may be old; what you do is kept and goes out later.'
})
async function again(one: (typeof own.value)[number]) {
  await anyway(one, new Date(now.value).toISOString())
  await send()
}
</script>

<template>
  <aside
    v-if="isCut || own.length || told.length || others"
    class="queue no-print"
    aria-live="polite"
    data-test="queue"
  >
    <p v-if="isCut || waiting"><strong v-if="isCut">No network. </strong>{{ standing }}</p>
    <p v-if="others" class="small">
      {{ count(others, 'thing', 'things') }} of somebody else who used this browser
      {{ others === 1 ? 'waits' : 'wait' }} until they sign in here again.
    </p>
    <ul v-if="refused.length">
      <li v-for="one in refused" :key="one.command.key" data-test="refused">
        <span>
          <strong>{{ one.says }}</strong>&nbsp;<span class="small quiet">{{ dateTime(one.at) }}</span>
        </span>
        <span class="why">{{ one.refused }}</span>
        <span class="do">
          <button class="act" data-test="anyway" @click="again(one)">Try it as it is now</button>
          <button class="act" data-test="leave-out" @click="leaveOut(one)">Leave it out</button>
        </span>
      </li>
    </ul>
    <p v-for="(line, index) in told" :key="index" data-test="told">
      {{ line }}
      <button class="act" @click="told = told.filter((_, other) => other !== index)">I know</button>
    </p>
  </aside>
</template>

<style scoped>
.queue {
  margin: 0 0 14px;
  padding: 8px 12px;
  background: var(--paper-2);
  border-left: 3px solid var(--alert);
}

p {
  margin: 0;
}

ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  gap: 2px;
  padding: 6px 0;
  border-top: 1px solid var(--rule);
}

.why {
  color: var(--worse);
}

.do {
  display: flex;
  gap: 18px;
}

.act {
  min-height: 44px;
}
</style>
