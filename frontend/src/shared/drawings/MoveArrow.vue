<script setup lang="ts">
import { computed } from 'vue'

/** A straight arrow, or one with two heads: which way something moves. */
const props = defineProps<{ x1: number; y1: number; x2: number; y2: number; both?: boolean }>()
const HEAD = 11
function head(x: number, y: number, fromX: number, fromY: number): string {
  const a = Math.atan2(y - fromY, x - fromX)
  const at = (side: number): string => `${x - HEAD * Math.cos(a + side)} ${y - HEAD * Math.sin(a + side)}`
  return `M${at(0.5)}L${x} ${y}L${at(-0.5)}`
}
const d = computed(() => {
  const { x1, y1, x2, y2 } = props
  return `M${x1} ${y1}L${x2} ${y2}${head(x2, y2, x1, y1)}${props.both ? head(x1, y1, x2, y2) : ''}`
})
</script>

<template><path :d="d" class="arrow" /></template>
