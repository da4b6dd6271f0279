<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import PasswordField from '../fields/PasswordField.vue'
import WayIn from './WayIn.vue'
import { hasPasskeys } from './passkeys'
import { asks, session, settle } from './session'
import { useSession } from './useSession'

/** Above what somebody is doing: to sign in again, or to give the password again. What was typed below stays. */
const dialog = useTemplateRef<HTMLDialogElement>('dialog')
const { busy, error, problem, again, byPasskey } = useSession()
const password = ref('')
const isAgain = computed(() => asks.value === 'password')
watch(
  asks,
  (now) => {
    password.value = ''
    error.value = undefined
    if (now && !dialog.value?.open) dialog.value?.showModal()
    if (!now) dialog.value?.close()
  },
  { flush: 'post' },
)
/** Without a password nothing is done; without a session there is nothing to go back to. */
function leave(event: Event) {
  event.preventDefault()
  if (isAgain.value) settle(false)
}
</script>

<template>
  <dialog ref="dialog" aria-labelledby="over-title" @cancel="leave">
    <template v-if="isAgain">
      <h2 id="over-title">Your password again</h2>
      <p>
        What you are about to do opens the door to others, or decides for two. It is only done shortly after
        the password was given.
      </p>
      <form @submit.prevent="again(password)">
        <input
          type="text"
          name="username"
          autocomplete="username"
          aria-label="Your code"
          :value="session?.signed_in?.code"
          hidden
        />
        <PasswordField
          v-model="password"
          label="Password"
          name="password-again"
          autocomplete="current-password"
          :wrong="problem?.of('password')"
        />
        <ProblemNote :error="error" :shown="['password']" />
        <p class="does">
          <ElButton type="primary" native-type="submit" :loading="busy" data-test="again">Go on</ElButton>
          <button
            v-if="hasPasskeys()"
            type="button"
            class="act"
            data-test="again-by-passkey"
            @click="byPasskey()"
          >
            With a passkey
          </button>
          <button type="button" class="act" @click="settle(false)">Leave it</button>
        </p>
      </form>
    </template>
    <template v-else-if="asks">
      <h2 id="over-title">Your session has ended</h2>
      <p>Sign in again and go on: what you typed is still there.</p>
      <WayIn :person="session?.signed_in?.code" />
    </template>
  </dialog>
</template>

<style scoped>
dialog {
  width: min(460px, calc(100vw - 36px));
  padding: 22px 24px;
  border: 1.5px solid var(--ink);
  background: var(--paper);
  color: var(--ink);
}

dialog::backdrop {
  background: rgb(0 0 0 / 45%);
}

form {
  display: grid;
  gap: 14px;
}

p {
  margin: 8px 0 14px;
}

.does {
  display: flex;
  gap: 18px;
  align-items: center;
  margin: 0;
}
</style>
