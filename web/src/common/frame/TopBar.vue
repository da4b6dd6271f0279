<script setup lang="ts">
import { PanelLeft } from '@lucide/vue'
import { onKeyStroke } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import TallyMark from '../TallyMark.vue'
import { installation } from '../installation'
import { useAddress } from '../useAddress'
import { seesTopic, usePeople } from '../usePeople'
import JumpBox from './JumpBox.vue'
import { isCommand } from './keys'
import PeriodPicker from './PeriodPicker.vue'
import PersonMenu from './PersonMenu.vue'
import ThemeSwitch from './ThemeSwitch.vue'
import { belongs, workspaces } from './workspaces'

const treeOpen = defineModel<boolean>('treeOpen', { required: true })
const route = useRoute()
const { to } = useAddress()
const { sees, may } = usePeople()
/** Those that the person has something to look for in; until it is known, all of them. */
const offered = computed(() =>
  workspaces.filter(
    ({ topic, action }) =>
      seesTopic(sees.value, topic) && (!action || !may.value || may.value.includes(action)),
  ),
)

onKeyStroke('\\', (event) => {
  if (isCommand(event)) treeOpen.value = !treeOpen.value
})
</script>

<template>
  <header>
    <button
      class="plain fold"
      :aria-pressed="treeOpen"
      aria-label="Asset tree"
      title="Asset tree ( \ )"
      @click="treeOpen = !treeOpen"
    >
      <PanelLeft :size="18" />
    </button>
    <RouterLink :to="to('/')" class="mark" :aria-label="`Fair Tally: ${installation.name}`">
      <TallyMark />
      <span>{{ installation.name }}</span>
    </RouterLink>
    <nav aria-label="Workspaces">
      <RouterLink
        v-for="workspace in offered"
        :key="workspace.path"
        :to="to(workspace.path)"
        :class="{ here: belongs(route.path, workspace) }"
      >
        {{ workspace.name }}
      </RouterLink>
    </nav>
    <PeriodPicker />
    <JumpBox />
    <PersonMenu />
    <ThemeSwitch />
  </header>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 18px;
  border-bottom: 1.5px solid var(--ink);
}

.fold {
  display: grid;
  color: var(--ink-2);
}

.mark {
  display: flex;
  align-items: center;
  gap: 9px;
  font: 600 17px var(--serif);
  color: var(--ink);
  white-space: nowrap;
}

.mark:hover {
  text-decoration: none;
}

nav {
  display: flex;
  gap: 20px;
  align-self: stretch;
  margin: 0 auto 0 10px;
}

nav a {
  display: flex;
  align-items: center;
  padding-top: 3px;
  border-bottom: 3px solid transparent;
  color: var(--ink-2);
  font-weight: 600;
}

nav a:hover {
  color: var(--accent);
  text-decoration: none;
}

nav a.here {
  color: var(--ink);
  border-color: var(--accent);
}

@media (max-width: 1100px) {
  header {
    gap: 12px;
    padding: 0 12px;
  }

  .mark span {
    display: none;
  }

  nav {
    gap: 14px;
    margin-left: 2px;
  }

  header :deep(.jump) {
    flex: 0 1 172px;
    min-width: 76px;
  }

  header :deep(.who .name) {
    max-width: 116px;
  }
}

@media (max-width: 760px) {
  header {
    flex-wrap: wrap;
    gap: 4px 8px;
    padding: 5px 12px;
  }

  nav {
    align-self: auto;
    gap: 0;
    flex: 1;
    justify-content: space-between;
  }

  nav a {
    min-height: 32px;
  }

  header :deep(.jump) {
    flex: 1 1 60px;
    min-width: 60px;
  }

  header :deep(.period) {
    gap: 0;
    margin-left: -8px;
  }

  header :deep(.who .role),
  header :deep(.period .dates) {
    display: none;
  }

  header :deep(.who .name) {
    max-width: 84px;
  }
}
</style>
