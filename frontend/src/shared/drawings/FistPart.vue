<script setup lang="ts">
/** A hand round a handle that goes up through 0, 0, its little finger reaching down to rest. */
defineProps<{ rest: number }>()
</script>

<template>
  <g class="hand">
    <path
      :d="`M18 12q12 4 14 ${rest * 0.5}l2 ${rest * 0.5 - 6}q0 6 -7 6t-7 -6l-4 ${-rest * 0.5}q-4 -10 -12 -12z`"
    />
    <path d="M-16 -16q0 -8 8 -8h26q16 0 16 18t-16 18h-26q-8 0 -8 -8z" />
    <path d="M-16 -8h22M-16 2h22" />
  </g>
</template>
