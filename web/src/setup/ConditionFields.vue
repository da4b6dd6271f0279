<script setup lang="ts">
import { computed, watch } from 'vue'
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import { type AskKind, type ConditionDraft, whenWords, whensOf } from './check'

/** What an answer is held against. */
const props = defineProps<{
  kind: AskKind
  /** What can be chosen, where that is known. */
  choices: string[]
  wrong?: string
}>()
const is = defineModel<ConditionDraft>({ required: true })
const whens = computed(() => whensOf(props.kind))
watch(
  whens,
  (whens) => {
    const [first] = whens
    if (first && !whens.includes(is.value.when)) is.value.when = first
  },
  { immediate: true },
)
const chosen = computed({
  get: () => is.value.values.split(',').map((value) => value.trim()),
  set: (values) => (is.value.values = values.filter(Boolean).join(', ')),
})
</script>

<template>
  <div class="condition">
    <ChoiceField v-model="is.when" label="When the answer" name="condition-when">
      <option v-for="when in whens" :key="when" :value="when">{{ whenWords[when] }}</option>
    </ChoiceField>
    <NumberField
      v-if="is.when !== 'among'"
      v-model="is.value"
      label="That number"
      name="condition-value"
      :wrong="wrong"
    />
    <fieldset v-else-if="choices.length">
      <legend>Of these</legend>
      <label v-for="choice in choices" :key="choice"
        ><input v-model="chosen" type="checkbox" :value="choice" /> {{ choice }}</label
      >
      <span v-if="wrong" class="wrong small">{{ wrong }}</span>
    </fieldset>
    <label v-else class="typed"
      >Of these, with commas between <input v-model="is.values" class="line" name="condition-values"
    /></label>
  </div>
</template>

<style scoped>
.condition {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: end;
}

fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 0;
  padding: 0 0 6px;
  border: 0;
}

legend,
.typed {
  font-size: 13px;
  color: var(--ink-2);
}

.typed {
  display: grid;
}

.wrong {
  color: var(--worse);
}
</style>
