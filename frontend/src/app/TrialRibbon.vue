<script setup lang="ts">
import { useRoute } from 'vue-router'

/** Says all the time that this is practice, and leads out of it. */
const route = useRoute()
const out = () => `/practice/clean${route.name === 'visit' ? `?visit=${String(route.params.id)}` : ''}`
</script>

<template>
  <p class="ribbon">
    <strong>Practice</strong>
    <span>An invented camera: nothing here touches your record or your kit.</span>
    <a :href="out()">How it went</a>
    <a href="/practice">Leave</a>
  </p>
</template>

<style scoped>
.ribbon {
  display: flex;
  flex: 1;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
  margin: 0 0 0 var(--space-4);
  padding: var(--space-1) var(--space-3);
  background: var(--warn-wash);
  border-radius: 6px;
}
</style>
