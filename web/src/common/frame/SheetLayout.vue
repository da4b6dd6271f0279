<script setup lang="ts">
import { dateTime } from '../format'
import { installation, now } from '../installation'

/** A sheet to be printed: nothing around it but where and when it is from, and what prints it. */
const print = () => window.print()
const back = () => window.history.back()
</script>

<template>
  <main id="screen" tabindex="-1">
    <p class="quiet small from">
      <span>{{ installation.name }}, {{ dateTime(now) }}</span>
      <span class="no-print does">
        <ElButton type="primary" @click="print">Print</ElButton>
        <button class="act" @click="back">Back</button>
      </span>
    </p>
    <slot />
  </main>
</template>

<style scoped>
main {
  box-sizing: border-box;
  height: 100%;
  overflow: auto;
  container: screen / inline-size;
  padding: 18px max(18px, calc((100% - 1040px) / 2)) 30px;
}

.from {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin: 0 0 10px;
}

.does {
  display: flex;
  gap: 16px;
}

@media print {
  main {
    height: auto;
    padding: 0;
    overflow: visible;
    container-type: normal;
  }
}
</style>
