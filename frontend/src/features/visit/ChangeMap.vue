<script setup lang="ts">
import type { StepOnTrail } from '@/api/client'

/** A small picture of what a step removed and what is new, by place. */
defineProps<{ places: StepOnTrail['places'] }>()
const WIDE = 84
const HIGH = 56
const R = 2.6
</script>

<template>
  <svg class="change" :viewBox="`0 0 ${WIDE} ${HIGH}`" aria-hidden="true">
    <rect :width="WIDE" :height="HIGH" />
    <g
      v-for="([x, y, fate], i) in places"
      :key="i"
      :class="fate"
      :transform="`translate(${x * WIDE} ${y * HIGH})`"
    >
      <path v-if="fate === 'new'" :d="`M${-R - 1} 0 H${R + 1} M0 ${-R - 1} V${R + 1}`" />
      <circle v-else :r="fate === 'stayed' ? 1.4 : R" />
    </g>
  </svg>
</template>

<style scoped>
.change {
  flex: none;
  width: 84px;
  height: 56px;
  margin-right: var(--space-1);
}
rect {
  fill: var(--ring);
}
g {
  fill: none;
  stroke: var(--mark-dark);
  stroke-width: 1;
}
.gone circle {
  stroke: var(--mark-light);
  stroke-width: 1.3;
}
.stayed circle,
.fainter circle {
  fill: var(--mark-dark);
}
.moved circle {
  stroke-dasharray: 1.5 1.2;
}
.new path {
  stroke: var(--mark-new);
  stroke-width: 1.8;
}
</style>
