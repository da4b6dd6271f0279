<script setup lang="ts">
import { computed, ref } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import PasswordField from '../fields/PasswordField.vue'
import { session } from './session'
import { useSession } from './useSession'

/** At a device that people share: who one is, by a press, and one's number. */
defineEmits<{ other: [] }>()
const { busy, error, byPin } = useSession()
const person = ref('')
const pin = ref('')
const people = computed(() => session.value?.shared?.people ?? [])
const chosen = computed(() => people.value.find((one) => one.code === person.value))
function choose(code: string) {
  person.value = code
  pin.value = ''
  error.value = undefined
}
async function enter() {
  if (!(await byPin(person.value, pin.value))) pin.value = ''
}
</script>

<template>
  <section aria-label="People of this device">
    <p class="quiet">{{ session?.shared?.name }}, shared by:</p>
    <ul v-if="!chosen">
      <li v-for="one in people" :key="one.code">
        <button type="button" class="who" :data-test="`sharer-${one.code}`" @click="choose(one.code)">
          {{ one.name }}
        </button>
      </li>
    </ul>
    <form v-else v-arrive aria-label="Your number" @submit.prevent="enter()">
      <p class="verdict">{{ chosen.name }}</p>
      <PasswordField
        :key="chosen.code"
        v-model="pin"
        label="Your number"
        name="pin"
        autocomplete="off"
        digits
      />
      <ProblemNote :error="error" />
      <p class="does">
        <ElButton type="primary" native-type="submit" :loading="busy" data-test="by-pin">Sign in</ElButton>
        <button type="button" class="act" data-test="somebody-else" @click="choose('')">Somebody else</button>
      </p>
    </form>
    <p>
      <button type="button" class="act" data-test="by-password" @click="$emit('other')">
        Sign in with a password
      </button>
    </p>
  </section>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}

.does {
  display: flex;
  gap: 18px;
  align-items: center;
  margin: 0;
}

ul {
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
  border-top: 1.5px solid var(--ink);
}

li {
  border-bottom: 1px solid var(--rule);
}

.who {
  width: 100%;
  padding: 13px 6px;
  border: 0;
  background: transparent;
  color: var(--ink);
  font: 600 16px var(--sans);
  text-align: left;
  cursor: pointer;
}

.who:hover {
  background: var(--accent-soft);
}
</style>
