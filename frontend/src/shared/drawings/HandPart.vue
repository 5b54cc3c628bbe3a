<script setup lang="ts">
/** Fingers that hold a camera by its side, at 0, 0; the body lies to the right of them. */
</script>

<template>
  <g class="hand">
    <path v-for="n in 4" :key="n" :d="`M-16 ${-38 + 15 * n}h34q7 0 7 7t-7 7h-34z`" />
    <path d="M-16 -24h-14q-14 8 -14 30t14 30h14" />
  </g>
</template>
