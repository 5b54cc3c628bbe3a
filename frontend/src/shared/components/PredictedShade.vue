<script setup lang="ts">
import { computed } from 'vue'
import type { Spot } from '@/api/client'
import { bandPath, courseOf } from '@/shared/lib/bands'

const props = defineProps<{ spot: Spot; gain: number }>()
const darkness = computed(() => Math.min(1, props.spot.depth * props.gain * 2))
const half = computed(() => props.spot.outer_px / 2)
const halfWidth = computed(() => Math.max((props.spot.width_px ?? 2) * 0.6, 1))
</script>

<template>
  <path
    v-if="spot.kind === 'fibre' || spot.kind === 'residue'"
    fill="var(--shade)"
    :fill-opacity="darkness"
    :d="bandPath(courseOf(spot), halfWidth)"
    :transform="`translate(${spot.x_px + 0.5} ${spot.y_px + 0.5})`"
  />
  <circle
    v-else
    fill="url(#shade)"
    :fill-opacity="darkness"
    :cx="spot.x_px + 0.5"
    :cy="spot.y_px + 0.5"
    :r="half"
  />
</template>
