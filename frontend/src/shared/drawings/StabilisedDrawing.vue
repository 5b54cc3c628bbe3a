<script setup lang="ts">
/** A sensor that floats between springs, one that is fixed, or one of which it is not known. */
defineProps<{ state: string }>()
</script>

<template>
  <svg class="drawing" viewBox="0 0 90 50" aria-hidden="true">
    <path class="metal" d="M4 4h82v42h-82z" />
    <path class="accent" d="M28 15h34v20h-34z" />
    <template v-if="state === 'yes'">
      <path d="M4 25h6l3 -5l4 10l4 -10l3 5h4M62 25h4l3 -5l4 10l4 -10l3 5h6" />
    </template>
    <path v-else-if="state === 'no'" d="M4 25h24M62 25h24" />
    <text v-else x="45" y="32" text-anchor="middle">?</text>
  </svg>
</template>
