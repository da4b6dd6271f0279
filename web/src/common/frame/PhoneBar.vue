<script setup lang="ts">
import { ChevronLeft } from '@lucide/vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import TallyMark from '../TallyMark.vue'
import { useAddress } from '../useAddress'
import PersonMenu from './PersonMenu.vue'

/** Above a screen for one thumb: the way back, the way to everything else, and who is here. */
const route = useRoute()
const { to } = useAddress()
/** Where the screen hangs, with what its address says filled in. */
const back = computed(() => {
  const { path, name } = route.meta.back ?? { path: '/', name: 'First page' }
  return { name, path: path.replace(/:(\w+)/g, (_, param: string) => String(route.params[param])) }
})
</script>

<template>
  <header>
    <RouterLink :to="to(back.path)" class="back"><ChevronLeft :size="20" /> {{ back.name }}</RouterLink>
    <RouterLink :to="to('/')" class="mark" aria-label="First page"><TallyMark /></RouterLink>
    <PersonMenu />
  </header>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  min-height: 48px;
  padding: 0 12px 0 6px;
  border-bottom: 1.5px solid var(--ink);
}

.back,
.mark {
  display: flex;
  align-items: center;
  min-width: 44px;
  min-height: 44px;
}

.back {
  gap: 2px;
  font-weight: 600;
}

.mark {
  justify-content: center;
}

header :deep(.who .name) {
  align-content: center;
  min-height: 44px;
}

header :deep(.who .role) {
  display: none;
}
</style>
