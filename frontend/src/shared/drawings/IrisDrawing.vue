<script setup lang="ts">
/** How wide a lens stands open at an aperture. */
defineProps<{ n: number }>()
</script>

<template>
  <svg class="drawing" viewBox="-20 -20 40 40" aria-hidden="true">
    <circle r="18" class="ink" />
    <circle :r="Math.max(1.2, Math.min(17, 24 / n))" class="light" />
  </svg>
</template>
