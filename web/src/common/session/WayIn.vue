<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import TextField from '../fields/TextField.vue'
import PasswordField from '../fields/PasswordField.vue'
import SharedWayIn from './SharedWayIn.vue'
import { hasPasskeys } from './passkeys'
import { session } from './session'
import { useSession } from './useSession'

/** How one signs in: with a password, with a code that sets one, or in the demo by a press. */
const { person = '' } = defineProps<{
  /** Who was signed in before. */
  person?: string
}>()
const { busy, error, problem, signIn, byCode, byPasskey, asSomebody } = useSession()
const given = reactive({ person, password: '', code: '', newPassword: '' })
const isFirst = computed(() => !!session.value?.is_first)
const hasCode = ref(false)
/** At a shared device one comes in with a number, unless one says otherwise. */
const hasPassword = ref(false)
const isShared = computed(() => !!session.value?.shared?.people.length && !hasPassword.value)
const withCode = computed(() => isFirst.value || hasCode.value)
function enter() {
  return withCode.value
    ? byCode(isFirst.value ? undefined : given.person, given.code, given.newPassword)
    : signIn(given.person, given.password)
}
function turn() {
  hasCode.value = !hasCode.value
  error.value = undefined
}
</script>

<template>
  <section v-if="session?.demo.length" aria-label="People of the demo">
    <p class="quiet">Nobody has a password in this demo: press who you want to be.</p>
    <ul>
      <li v-for="one in session.demo" :key="one.code">
        <button
          type="button"
          class="who"
          :disabled="busy"
          :data-test="`be-${one.role}`"
          @click="asSomebody(one.code)"
        >
          <strong>{{ one.role }}</strong>
          <span>{{ one.name }}</span>
          <span class="quiet small">{{ one.is_for }}</span>
        </button>
      </li>
    </ul>
    <ProblemNote :error="error" />
  </section>
  <SharedWayIn v-else-if="isShared" @other="hasPassword = true" />
  <form v-else aria-label="Sign in" @submit.prevent="enter()">
    <p v-if="isFirst" data-test="first-start">
      Nobody can sign in here yet. The server printed a code when it started, in its terminal or its log. With
      it you become the first administrator.
    </p>
    <TextField
      v-else
      v-model="given.person"
      label="Your code"
      hint="The short name that stands for you in Setup"
      name="username"
      autocomplete="username"
      required
      :wrong="problem?.of('person')"
    />
    <template v-if="withCode">
      <TextField
        v-model="given.code"
        label="The code you were given"
        name="code"
        required
        autocomplete="one-time-code"
      />
      <PasswordField
        v-model="given.newPassword"
        label="Your new password"
        hint="12 characters or more; several words are good"
        name="new-password"
        autocomplete="new-password"
        :wrong="problem?.of('password')"
      />
    </template>
    <PasswordField
      v-else
      v-model="given.password"
      label="Password"
      name="password"
      autocomplete="current-password"
    />
    <ProblemNote :error="error" :shown="['person', 'password']" />
    <p class="does">
      <ElButton type="primary" native-type="submit" :loading="busy" data-test="sign-in">
        {{ withCode ? 'Set the password and sign in' : 'Sign in' }}
      </ElButton>
      <button
        v-if="hasPasskeys() && !withCode"
        type="button"
        class="act"
        :disabled="busy"
        data-test="by-passkey"
        @click="byPasskey()"
      >
        Sign in with a passkey
      </button>
      <button v-if="!isFirst" type="button" class="act" data-test="have-code" @click="turn()">
        {{ hasCode ? 'Sign in with a password' : 'Set a password with a code' }}
      </button>
    </p>
    <p v-if="!withCode" class="quiet small">
      Password forgotten? An administrator makes you a code to set a new one.
    </p>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}

p {
  margin: 0;
}

.does {
  display: flex;
  gap: 18px;
  align-items: center;
  flex-wrap: wrap;
}

ul {
  list-style: none;
  margin: 14px 0 0;
  padding: 0;
  border-top: 1.5px solid var(--ink);
}

li {
  border-bottom: 1px solid var(--rule);
}

.who {
  display: grid;
  grid-template-columns: 118px minmax(0, 1fr);
  column-gap: 14px;
  width: 100%;
  padding: 8px 6px;
  border: 0;
  background: transparent;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.who strong {
  grid-row: span 2;
  color: var(--accent);
  text-transform: capitalize;
}

.who:hover {
  background: var(--accent-soft);
}
</style>
