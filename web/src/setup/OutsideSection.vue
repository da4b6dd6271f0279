<script setup lang="ts">
import MailOutbox from './MailOutbox.vue'
import MeterTags from './MeterTags.vue'
import WebhookList from './WebhookList.vue'
</script>

<template>
  <h1>What goes out, and names that come in</h1>
  <MailOutbox />
  <WebhookList />
  <MeterTags />
</template>
