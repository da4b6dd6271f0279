<script setup lang="ts">
import WayIn from './WayIn.vue'

/** What is there before anybody is signed in. */
</script>

<template>
  <main id="screen" tabindex="-1">
    <div class="sheet">
      <p class="mark">
        <svg viewBox="0 0 32 26" width="40" height="32" aria-hidden="true">
          <path class="stroke" d="M6 4v18M12.5 4v18M19 4v18M25.5 4v18" />
          <path class="across" d="M2.5 19.5 29 6.5" />
        </svg>
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

.stroke,
.across {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
  stroke-linecap: round;
}

.across {
  stroke: var(--accent);
}
</style>
