<script setup lang="ts">
import ChoiceField from '../common/fields/ChoiceField.vue'
import NumberField from '../common/fields/NumberField.vue'
import ReferenceField from '../common/fields/ReferenceField.vue'
import TextField from '../common/fields/TextField.vue'
import { changes as changesAsked } from './queries/master'
import { crews as crewsAsked, settings } from '../common/queries/plant'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { type Settings } from '../common/api'
import { localeName, months, stateWords } from '../common/format'
import ProblemNote from '../common/ProblemNote.vue'
import NewerNote from '../common/draft/NewerNote.vue'
import { useChange } from '../common/change/useChange'
import { approveOff, saveSettings, turnDownOff } from './changes'
import { useDraft } from '../common/draft/useDraft'
import ProposedVersion from '../common/approval/ProposedVersion.vue'
import ChangeList from './ChangeList.vue'

const view = useQuery(settings())
type SettingsView = NonNullable<typeof view.data.value>
const settingsOf = ({
  second_approval_off,
  limited_states,
  locales,
  change,
  ...settings
}: SettingsView): Settings => {
  void [second_approval_off, limited_states, locales, change]
  return JSON.parse(JSON.stringify({ state_limits: [], ...settings }))
}
const {
  draft: given,
  newer,
  take,
  takeTheirs,
  keepMine,
  basedOn,
} = useDraft<SettingsView, Settings>({
  theirs: () => view.data.value,
  of: () => 'installation',
  version: (theirs) => theirs.change,
  draftOf: settingsOf,
  same: (mine, theirs) => JSON.stringify(mine) === JSON.stringify(settingsOf(theirs)),
  name: () => 'the installation',
})
const reasons = {
  parts: 'for parts',
  outage: 'for an outage',
  people: 'for people',
  other: 'for something else',
}
const zones = Intl.supportedValuesOf('timeZone').map((code) => ({ code }))

const crews = useQuery(crewsAsked())
const changes = useQuery({
  ...changesAsked({ code: 'installation', limit: 30 }),
  select: (all) => all.filter((change) => change.kind === 'settings'),
})
const { mutate, error, problem, isPending, reset } = useChange(saveSettings, take)
function drop() {
  reset()
  takeTheirs()
}
function goOn() {
  reset()
  keepMine()
}
/** The switch-off of the second approval, which needs one itself. */
const off = computed(() => {
  const proposed = view.data.value?.second_approval_off
  return (
    proposed && { ...proposed, reason: 'From then on one engineer alone changes danger rungs.', changes: [] }
  )
})
const addLimit = () => given.value.state_limits?.push({ state: 'planning', days: 10, undated: false })
</script>

<template>
  <form v-if="given" class="installation" @submit.prevent="mutate(given, basedOn())">
    <h1>Installation</h1>
    <p class="quiet">What holds for all of it.</p>
    <div class="row">
      <TextField v-model="given.name" label="Name" name="name" :wrong="problem?.of('name')" />
      <TextField v-model="given.currency" label="Currency" name="currency" />
      <NumberField
        v-model="given.minor_digits"
        label="Decimals of an amount"
        name="digits"
        :min="0"
        :max="4"
      />
      <ChoiceField v-model="given.fiscal_month" label="Fiscal year begins in" name="fiscal">
        <option v-for="(month, index) in months()" :key="month" :value="index + 1">{{ month }}</option>
      </ChoiceField>
      <ChoiceField v-model="given.locale" label="Numbers and dates as in" name="locale">
        <option v-for="locale in view.data.value?.locales" :key="locale" :value="locale">
          {{ localeName(locale) }}
        </option>
      </ChoiceField>
      <ReferenceField v-model="given.time_zone" label="Time zone of periods" name="zone" :choices="zones" />
    </div>
    <label class="check"
      ><input v-model="given.second_approval" type="checkbox" name="second_approval" /> A changed danger rung
      needs the approval of a second engineer</label
    >
    <ProposedVersion v-if="off" :proposed="off" :approve="approveOff" :turn-down="turnDownOff" :of="null" />
    <h2>Windows of the risk ranks</h2>
    <p class="quiet small">
      Days in which work must be done. Work that is raised from now on gets the new window.
    </p>
    <div class="ranks">
      <NumberField
        v-for="rank in 5"
        :key="rank"
        v-model="given.rank_windows[rank - 1]"
        :label="`Rank ${rank}`"
        :min="1"
        :name="`rank-${rank}`"
      />
    </div>
    <h2>What the tally asks about work</h2>
    <div class="ranks">
      <NumberField
        v-model="given.headline_days"
        label="Days within which open work has a date"
        :min="1"
        :max="365"
        name="headline_days"
        :wrong="problem?.of('headline_days')"
      />
      <NumberField
        v-model="given.stay_gap_days"
        label="Days elsewhere after which time in a state begins anew"
        :min="1"
        :max="365"
        name="stay_gap_days"
        :wrong="problem?.of('stay_gap_days')"
      />
      <NumberField
        v-model="given.longest_list"
        label="Orders beyond which a backlog comes as counts"
        :min="1"
        name="longest_list"
        :wrong="problem?.of('longest_list')"
      />
      <NumberField
        v-model="given.estimate_mark_percent"
        label="Per cent of the estimate beyond which an order is named"
        :min="1"
        name="estimate_mark_percent"
        :wrong="problem?.of('estimate_mark_percent')"
      />
      <NumberField
        v-model="given.decide_within_days"
        label="Days within which a decision on risk is answered"
        :min="1"
        :max="90"
        name="decide_within_days"
        :wrong="problem?.of('decide_within_days')"
      />
    </div>
    <h2>
      How long work may stay in a state
      <button type="button" class="act" @click="addLimit">Add a limit</button>
    </h2>
    <p class="quiet small">
      Work over its limit is counted above the work list. A blank condition means any.
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th>State</th>
          <th class="num">Days</th>
          <th>Only waiting</th>
          <th>Only undated</th>
          <th>Only rank</th>
          <th>Only crew</th>
          <th><span class="unseen">Take away</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(limit, index) in given.state_limits" :key="index" data-test="state-limit">
          <td>
            <select v-model="limit.state" class="line" :aria-label="`State of limit ${index + 1}`">
              <option v-for="state in view.data.value?.limited_states" :key="state" :value="state">
                {{ stateWords[state] }}
              </option>
            </select>
          </td>
          <td class="num">
            <input
              v-model.number="limit.days"
              class="line days"
              type="number"
              min="1"
              :aria-label="`Days of limit ${index + 1}`"
            />
          </td>
          <td>
            <select
              v-model="limit.waiting_for"
              class="line"
              :disabled="limit.state !== 'waiting'"
              :aria-label="`Reason of limit ${index + 1}`"
            >
              <option :value="undefined"></option>
              <option :value="null" hidden></option>
              <option v-for="(words, reason) in reasons" :key="reason" :value="reason">{{ words }}</option>
            </select>
          </td>
          <td>
            <input v-model="limit.undated" type="checkbox" :aria-label="`Only undated, limit ${index + 1}`" />
          </td>
          <td>
            <select v-model="limit.rank" class="line" :aria-label="`Rank of limit ${index + 1}`">
              <option :value="undefined"></option>
              <option :value="null" hidden></option>
              <option v-for="rank in 5" :key="rank" :value="rank">{{ rank }}</option>
            </select>
          </td>
          <td>
            <select v-model="limit.crew" class="line" :aria-label="`Crew of limit ${index + 1}`">
              <option :value="undefined"></option>
              <option :value="null" hidden></option>
              <option v-for="crew in crews.data.value" :key="crew.code" :value="crew.code">
                {{ crew.name }}
              </option>
            </select>
          </td>
          <td>
            <button type="button" class="act" @click="given.state_limits?.splice(index, 1)">Take away</button>
          </td>
        </tr>
      </tbody>
    </table>
    <NewerNote v-if="newer" words="other settings" @theirs="drop" @mine="goOn" />
    <ProblemNote :error="error" />
    <ElButton type="primary" native-type="submit" :loading="isPending" data-test="save-settings"
      >Save</ElButton
    >
    <template v-if="changes.data.value?.length">
      <h2>Who changed what</h2>
      <ChangeList :changes="changes.data.value" />
    </template>
  </form>
</template>

<style scoped>
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
  margin-top: 12px;
}

.installation {
  max-width: 980px;
}

.row {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 12px 18px;
  margin: 14px 0 24px;
}

.ranks {
  display: grid;
  grid-template-columns: repeat(5, 92px);
  gap: 14px;
  margin: 8px 0 24px;
}

h2 {
  margin-top: 22px;
}

h2 .act {
  margin-left: 12px;
}

p {
  margin: 3px 0 6px;
}

.days {
  width: 84px;
  text-align: right;
}

.el-button {
  margin-top: 16px;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}

@media (max-width: 760px) {
  .ranks {
    grid-template-columns: repeat(3, 1fr);
  }
}
</style>
