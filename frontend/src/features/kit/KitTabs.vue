<script setup lang="ts">
import { RouterLink } from 'vue-router'

/** The two sides of the kit: the things, and what they cost. */
</script>

<template>
  <nav aria-label="Kit">
    <RouterLink :to="{ name: 'kit' }" exact-active-class="here">Items</RouterLink>
    <RouterLink :to="{ name: 'costs' }" exact-active-class="here">Costs</RouterLink>
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  gap: var(--space-3);
  border-bottom: 1px solid var(--line);
}
a {
  padding: var(--space-2) var(--space-1);
  color: var(--ink);
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
a.here {
  font-weight: 650;
  border-bottom-color: var(--accent);
}
</style>
