<script setup lang="ts">
import { ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import type { Schemas } from '../common/api'
import { useChange } from '../common/change/useChange'
import { dateTime, whole } from '../common/format'
import ShownOnce from './ShownOnce.vue'
import { endSessionsOf, makeResetCode } from './changes'

/** Lets a person set a password: the first one, or a new one. */
defineProps<{ code: string; name: string }>()
const made = ref<Schemas['ResetCode']>()
const ended = ref<number>()
const end = useChange(endSessionsOf, (answer) => (ended.value = (answer as Schemas['Ended']).ended))
const asked = useChange(makeResetCode, (code) => (made.value = code as Schemas['ResetCode']))
</script>

<template>
  <section>
    <h2 class="ruled">
      How {{ name }} signs in
      <button class="act" data-test="reset-code" @click="asked.mutate(code)">
        Make a code for a new password
      </button>
    </h2>
    <p class="quiet small">
      With the code they set a password of their own, once and within an hour. Until then the old one works
      on.
    </p>
    <ShownOnce
      v-if="made"
      :secret="made.code"
      :of="`The code for ${name}`"
      :until="`once, until ${dateTime(made.until)}`"
      @seen="made = undefined"
    />
    <p class="small">
      <button class="act" data-test="end-sessions" @click="end.mutate(code)">End all sessions</button>
      <span v-if="ended !== undefined" role="status">
        {{ ended ? `${whole(ended)} ended.` : 'None was open.' }}
      </span>
    </p>
    <ProblemNote :error="asked.error.value ?? end.error.value" />
  </section>
</template>

<style scoped>
section {
  margin-top: 26px;
}
</style>
