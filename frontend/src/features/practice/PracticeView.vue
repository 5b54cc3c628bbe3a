<script setup lang="ts">
import ExerciseCard from './ExerciseCard.vue'
import { EXERCISES } from './practice'

/** Short exercises with a hidden truth; nothing practised touches the record or the kit. */
</script>

<template>
  <section class="page">
    <h1>Practice</h1>
    <p class="soft">
      Try what costs nothing here: each exercise has a hidden truth, and shows it afterwards. Nothing
      practised touches your record or your kit.
    </p>
    <ExerciseCard v-for="e in EXERCISES" :key="e.exercise" v-bind="e" />
  </section>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 380px), 1fr));
  gap: var(--space-3);
  max-width: 1100px;
  margin: 0 auto;
  padding: var(--space-4);
}
.page > h1,
.page > p {
  grid-column: 1 / -1;
}
</style>
