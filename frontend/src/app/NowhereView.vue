<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <section class="nowhere">
    <h1>There is no such page</h1>
    <p><RouterLink :to="{ name: 'bench' }">Back to the frames</RouterLink></p>
  </section>
</template>

<style scoped>
.nowhere {
  padding: 3rem;
}
</style>
