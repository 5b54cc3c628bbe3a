<script setup lang="ts">
/** A sensor's size beside the others', all to one scale. */
defineProps<{ size: readonly [number, number] }>()
</script>

<template>
  <svg class="drawing" viewBox="0 0 58 44" aria-hidden="true">
    <rect class="most" x="2" y="2" width="53.4" height="40" rx="1" />
    <rect class="accent" :x="2" :y="42 - size[1]" :width="size[0]" :height="size[1]" rx="1" />
  </svg>
</template>
