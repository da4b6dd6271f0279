<script setup lang="ts">
import { onClickOutside, onKeyStroke } from '@vueuse/core'
import { ref, useTemplateRef } from 'vue'
import { session } from '../session/session'
import { useSession } from '../session/useSession'
import { useAddress } from '../useAddress'

/** Who is signed in, and what they do about it. */
const { to } = useAddress()
const { asSomebody, signOut } = useSession()
const isOpen = ref(false)
const menu = useTemplateRef('menu')
onClickOutside(menu, () => (isOpen.value = false))
onKeyStroke('Escape', (event) => {
  if (!isOpen.value) return
  isOpen.value = false
  event.stopImmediatePropagation()
})
function be(code: string) {
  isOpen.value = false
  return asSomebody(code)
}
</script>

<template>
  <div v-if="session?.signed_in" ref="menu" class="who">
    <button
      class="plain name"
      :aria-expanded="isOpen"
      aria-haspopup="true"
      data-test="person"
      @click="isOpen = !isOpen"
    >
      <span class="role">{{ session.signed_in.role }}</span>
      <span class="of">{{ session.signed_in.name }}</span>
    </button>
    <div v-if="isOpen" class="open">
      <RouterLink :to="to('/account')" class="line" @click="isOpen = false">Password and sessions</RouterLink>
      <template v-if="session.demo.length">
        <p class="quiet small">Be somebody else</p>
        <button
          v-for="one in session.demo.filter((other) => other.code !== session?.signed_in?.code)"
          :key="one.code"
          class="plain line"
          :data-test="`be-${one.role}`"
          @click="be(one.code)"
        >
          {{ one.name }} <span class="quiet small">{{ one.role }}</span>
        </button>
      </template>
      <button class="plain line out" data-test="sign-out" @click="signOut()">
        {{ session.shared ? 'Change places' : 'Sign out' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.who {
  position: relative;
}

.name {
  display: grid;
  max-width: 168px;
  line-height: 1.15;
  text-align: left;
  color: var(--ink);
}

.role {
  font-size: 11.5px;
  color: var(--ink-3);
}

.of {
  font-weight: 600;
  font-size: 13.5px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}

.open {
  position: absolute;
  right: 0;
  top: calc(100% + 8px);
  z-index: 15;
  display: grid;
  min-width: 230px;
  padding: 6px 0;
  border: 1.5px solid var(--ink);
  background: var(--paper);
}

.open p {
  margin: 8px 14px 2px;
}

.line {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  padding: 7px 14px;
  color: var(--ink);
  font: inherit;
  text-align: left;
}

.line:hover {
  background: var(--accent-soft);
  text-decoration: none;
}

.out {
  margin-top: 4px;
  border-top: 1px solid var(--rule);
}
</style>
