<script setup lang="ts">
import MailOutbox from './MailOutbox.vue'
import MeterTags from './MeterTags.vue'
import WebhookList from './WebhookList.vue'
</script>

<template>
  <h1>Names that come in, and what goes out</h1>
  <MeterTags />
  <WebhookList />
  <MailOutbox />
</template>
