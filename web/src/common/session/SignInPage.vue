<script setup lang="ts">
import TallyMark from '../TallyMark.vue'
import WayIn from './WayIn.vue'

/** What is there before anybody is signed in. */
</script>

<template>
  <main id="screen" tabindex="-1">
    <div class="sheet">
      <p class="mark">
        <TallyMark :width="40" />
        Fair Tally
      </p>
      <h1>Sign in</h1>
      <WayIn />
    </div>
  </main>
</template>

<style scoped>
main {
  height: 100%;
  overflow: auto;
  display: grid;
  justify-items: center;
  align-items: start;
  padding: max(24px, 12vh) 18px 40px;
}

main:focus {
  outline: none;
}

.sheet {
  width: min(430px, 100%);
}

.mark {
  display: flex;
  align-items: center;
  gap: 12px;
  margin: 0 0 26px;
  font: 600 22px var(--serif);
}

h1 {
  margin-bottom: 12px;
}
</style>
