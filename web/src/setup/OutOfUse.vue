<script setup lang="ts">
import InstantField from '../common/fields/InstantField.vue'
import TextField from '../common/fields/TextField.vue'
import { alarms } from '../common/queries/watch'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { dateTime, onTheMinute } from '../common/format'
import { now } from '../common/installation'
import ProblemNote from '../common/ProblemNote.vue'
import { useOutOfUse } from '../common/useOutOfUse'

const props = defineProps<{
  /** Of the asset. */
  code: string
}>()
const { data } = useQuery(() => alarms(props.code))
const spells = computed(() => (data.value?.out_of_use ?? []).filter((one) => one.asset.code === props.code))

const open = ref(false)
const from = ref('')
const until = ref('')
const reason = ref('')
function begin() {
  open.value = !open.value
  from.value = onTheMinute(now.value)
  until.value = ''
  reason.value = ''
}
const { put, end } = useOutOfUse(() => (open.value = false))
const send = () =>
  put.mutate({
    code: props.code,
    reason: reason.value,
    from: from.value || undefined,
    until: until.value || undefined,
  })
</script>

<template>
  <section data-test="out-of-use">
    <h2>
      When it is out of use
      <button class="act" data-test="put-out-of-use" @click="begin">Put out of use</button>
    </h2>
    <ol>
      <li v-for="one in spells" :key="one.from">
        <span class="at">{{ dateTime(one.from) }} – {{ one.until ? dateTime(one.until) : 'open' }}</span>
        <span>
          {{ one.reason }} <span class="quiet">{{ one.by }}</span>
          <button class="act" @click="end.mutate(code)">Take back into use</button>
        </span>
      </li>
      <li v-if="!spells.length"><span class="at">now</span>in use</li>
    </ol>
    <ProblemNote :error="end.error.value" />
    <form v-if="open" v-arrive class="inset" @submit.prevent="send()" @keydown.esc.stop="open = false">
      <TextField
        v-model="reason"
        label="Why"
        :wrong="put.problem.value?.of('reason')"
        class="wide"
        name="out-reason"
      />
      <InstantField v-model="from" label="From" name="out-from" />
      <InstantField v-model="until" label="Until" :wrong="put.problem.value?.of('until')" name="out-until" />
      <ElButton
        type="primary"
        native-type="submit"
        :loading="put.isPending.value"
        data-test="save-out-of-use"
      >
        Put out of use
      </ElButton>
      <ProblemNote :error="put.error.value" :shown="['reason', 'until']" />
      <p class="quiet small note">
        Alarms of it and of all below it are held until then, or until it is taken back; what still stands
        answers then.
      </p>
    </form>
  </section>
</template>
