<script setup lang="ts">
/** Air that leaves a nozzle: upward, or sideways; and dust that falls out of an opening. */
defineProps<{ x: number; y: number; sideways?: boolean; falls?: boolean }>()
</script>

<template>
  <g :transform="`translate(${x} ${y}) rotate(${sideways ? 90 : 0})`">
    <g class="puffs">
      <path d="M-8 2q8 -8 16 0" class="arrow" />
      <path d="M-14 -12q14 -12 28 0" class="arrow" />
      <path d="M-20 -26q20 -16 40 0" class="arrow" />
    </g>
    <g v-if="falls" class="dust">
      <circle cx="-30" cy="-20" r="3" /><circle cx="-34" cy="30" r="3" /><circle cx="36" cy="6" r="3" />
      <circle cx="-44" cy="64" r="3" /><circle cx="48" cy="52" r="3" />
    </g>
  </g>
</template>
