<script setup lang="ts">
import type { Kind } from '@/api/client'

defineProps<{ kind: Kind }>()
</script>

<template>
  <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true">
    <circle v-if="kind === 'speck'" cx="9" cy="7" r="4" />
    <rect
      v-else-if="kind === 'fibre'"
      x="1"
      y="4.5"
      width="16"
      height="5"
      rx="2.5"
      transform="rotate(-18 9 7)"
    />
    <g v-else-if="kind === 'droplet'">
      <circle cx="9" cy="7" r="5.6" />
      <circle cx="9" cy="7" r="2.4" />
    </g>
    <rect v-else-if="kind === 'residue'" x="1" y="3" width="16" height="8" rx="4" stroke-dasharray="3 2" />
    <circle v-else cx="9" cy="7" r="5.6" stroke-dasharray="0.5 2.6" stroke-linecap="round" />
  </svg>
</template>

<style scoped>
svg {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.6;
  flex: none;
}
</style>
