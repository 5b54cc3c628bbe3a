<script setup lang="ts">
import { computed } from 'vue'
import type { FrameOnTrail } from '@/api/client'
import { uprightTurn } from '@/shared/lib/geometry'

/** A frame's spots as a small map, held as the picture is. */
const props = defineProps<{ frame: FrameOnTrail }>()
const wide = 90
const high = computed(() => wide / Math.max(props.frame.proportion, 0.3))
const turn = computed(() => uprightTurn(props.frame.orientation).degrees)
const lying = computed(() => turn.value % 180 === 0)
const box = computed(() => {
  const [w, h] = lying.value ? [wide, high.value] : [high.value, wide]
  return `${-w / 2} ${-h / 2} ${w} ${h}`
})
</script>

<template>
  <svg :viewBox="box" aria-hidden="true">
    <g :transform="`rotate(${turn}) translate(${-wide / 2} ${-high / 2})`">
      <rect :width="wide" :height="high" />
      <circle
        v-for="([x, y, relevant], i) in frame.dots"
        :key="i"
        :class="{ relevant }"
        :cx="x * wide"
        :cy="y * high"
        :r="relevant ? 2 : 1.2"
      />
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 96px;
  height: 62px;
}
rect {
  fill: var(--ring);
  stroke: var(--camera);
  stroke-width: 0.6;
}
circle {
  fill: none;
  stroke: var(--camera-edge);
  stroke-width: 0.7;
}
circle.relevant {
  fill: var(--mark-dark);
  stroke: var(--mark-light);
  stroke-width: 0.7;
}
</style>
