<script setup lang="ts">
import { tags } from './queries/outside'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { answer, api } from '../common/api'
import { plain, unit } from '../common/format'
import FormField from '../common/fields/FormField.vue'
import ProblemNote from '../common/ProblemNote.vue'
import { useAddress } from '../common/useAddress'
import { askToEnd } from '../common/ask'
import { useChange } from '../common/change/useChange'

const { to } = useAddress()
const { data, error } = useQuery(tags())
const adding = ref(false)
const form = ref({ tag: '', meter: '', unit: '' })
const set = useChange(
  () =>
    answer(
      api.PUT('/api/v1/tags', {
        body: { tag: form.value.tag, meter: form.value.meter, unit: form.value.unit || undefined },
      }),
    ),
  () => (form.value = { tag: '', meter: '', unit: '' }),
)
const removed = useChange((tag: string) =>
  answer(api.DELETE('/api/v1/tags/{tag}', { params: { path: { tag } } })),
)
const fields = [
  { key: 'tag', words: 'Outside name' },
  { key: 'meter', words: 'Code of the meter' },
  { key: 'unit', words: 'Unit that comes in (UCUM)' },
] as const
async function remove(tag: string) {
  const follows = 'Readings that come under this name are refused from then on.'
  if (await askToEnd('Remove', `the tag ${tag}`, follows)) removed.mutate(tag)
}
</script>

<template>
  <section aria-label="Tags">
    <h2 class="ruled">Tags <button class="act" @click="adding = !adding">Add a tag</button></h2>
    <p class="quiet small">
      Names that gateways have for meters. A reading may come under its tag, in its own unit: it is turned
      into the meter’s.
    </p>
    <form v-if="adding" v-arrive class="inset" aria-label="Tag" @submit.prevent="set.mutate()">
      <FormField
        v-for="{ key, words } in fields"
        :key="key"
        v-slot="{ field }"
        :label="words"
        :wrong="set.problem.value?.of(key)"
      >
        <input v-model="form[key]" v-bind="field" class="line" :name="key" :required="key !== 'unit'" />
      </FormField>
      <ElButton type="primary" native-type="submit" :loading="set.isPending.value">Keep</ElButton>
      <ProblemNote :error="set.error.value" :shown="['tag', 'meter', 'unit']" />
    </form>
    <ProblemNote :error="error ?? removed.error.value" />
    <table v-if="data?.length" class="ledger">
      <thead>
        <tr>
          <th>Tag</th>
          <th>Meter</th>
          <th>Comes in as</th>
          <th>Becomes</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="tag in data" :key="tag.tag" data-test="tag">
          <td>{{ tag.tag }}</td>
          <td>
            <RouterLink :to="to(`/watch/${tag.meter}`)"
              >{{ tag.asset.name }}: {{ tag.meter_name }}</RouterLink
            >
          </td>
          <td>{{ unit(tag.unit) }}</td>
          <td>
            <template v-if="tag.unit !== tag.meter_unit">
              × {{ plain(tag.factor)
              }}<template v-if="tag.offset">
                {{ tag.offset < 0 ? '−' : '+' }} {{ plain(Math.abs(tag.offset)) }}</template
              >
            </template>
            {{ unit(tag.meter_unit) }}
          </td>
          <td class="num"><button class="act" @click="remove(tag.tag)">Remove</button></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="quiet">Gateways use the meters’ own codes.</p>
  </section>
</template>

<style scoped>
h2 {
  margin-top: 26px;
}
</style>
