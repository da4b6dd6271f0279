<script setup lang="ts">
import { computed, ref } from 'vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useChange } from '../common/change/useChange'
import PasswordField from '../common/fields/PasswordField.vue'
import { forgetPin, setPin } from './changes'

/** A number with which one changes places at a device that several people share. */
const props = defineProps<{
  /** Whether it counts; none without one. */
  counts?: boolean | null
}>()
const isSetting = ref(false)
const pin = ref('')
const kept = useChange(setPin, () => {
  isSetting.value = false
  pin.value = ''
})
const forgotten = useChange(forgetPin)
const stands = computed(() => {
  if (props.counts === true) return 'You have a number.'
  if (props.counts === false)
    return 'Your number was tried wrongly too often and counts no more. Set another.'
  return 'You have no number.'
})
</script>

<template>
  <section aria-label="Number for shared devices">
    <h2 class="ruled">
      Number for shared devices
      <span class="acts">
        <button class="act" data-test="set-pin" :aria-expanded="isSetting" @click="isSetting = !isSetting">
          {{ counts == null ? 'Set a number' : 'Set another' }}
        </button>
        <button v-if="counts != null" class="act" data-test="forget-pin" @click="forgotten.mutate(null)">
          Remove it
        </button>
      </span>
    </h2>
    <p class="quiet">
      <span data-test="pin-stands">{{ stands }}</span>
      It signs you in at a phone or computer that an administrator has set up to be shared, and nowhere else.
    </p>
    <form v-if="isSetting" v-arrive class="inset" aria-label="Number" @submit.prevent="kept.mutate({ pin })">
      <PasswordField
        v-model="pin"
        label="The number"
        hint="Six digits or more"
        name="pin"
        autocomplete="off"
        digits
        :wrong="kept.problem.value?.of('pin')"
      />
      <ElButton type="primary" native-type="submit" :loading="kept.isPending.value" data-test="save-pin">
        Set it
      </ElButton>
      <ProblemNote :error="kept.error.value" :shown="['pin']" />
    </form>
    <ProblemNote :error="forgotten.error.value" />
  </section>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
  max-width: 430px;
  justify-items: start;
}

form > :not(.el-button) {
  width: 100%;
}

.acts {
  display: flex;
  gap: 18px;
  margin-left: auto;
}
</style>
