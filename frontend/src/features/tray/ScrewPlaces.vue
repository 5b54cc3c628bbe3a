<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { nudged, toggled } from './plan'

/** Where a group's screws sit on the camera as it lies: touched in its outline, or by arrow keys and Enter. */
type Point = Schemas['TrayPoint']
const props = defineProps<{ outline: Point; name: string }>()
const places = defineModel<Point[]>({ required: true })
const aim = ref<Point>({ x_mm: props.outline.x_mm / 2, y_mm: props.outline.y_mm / 2 })
const plate = ref<SVGSVGElement | null>(null)
const box = computed(() => `0 0 ${props.outline.x_mm} ${props.outline.y_mm}`)
function touch(event: MouseEvent): void {
  const matrix = plate.value?.getScreenCTM()
  if (!matrix) return
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  places.value = toggled(places.value, { x_mm: at.x, y_mm: at.y }, props.outline)
}
function onKey(event: KeyboardEvent): void {
  const moved = nudged(aim.value, event.key, props.outline)
  if (moved) aim.value = moved
  else if (event.key === 'Enter' || event.key === ' ')
    places.value = toggled(places.value, aim.value, props.outline)
  else return
  event.preventDefault()
}
</script>

<template>
  <svg
    ref="plate"
    :viewBox="box"
    role="application"
    tabindex="0"
    :aria-label="`Where the screws ${name} sit, ${places.length} placed: arrow keys aim, Enter places or takes away`"
    @click="touch"
    @keydown="onKey"
  >
    <rect class="camera" :width="outline.x_mm" :height="outline.y_mm" rx="3" />
    <path class="aim" :d="`M ${aim.x_mm - 3} ${aim.y_mm} h 6 M ${aim.x_mm} ${aim.y_mm - 3} v 6`" />
    <circle v-for="(p, i) in places" :key="i" class="screw" :cx="p.x_mm" :cy="p.y_mm" r="2" />
  </svg>
</template>

<style scoped>
svg {
  width: 15em;
  cursor: crosshair;
  touch-action: manipulation;
}
.camera {
  fill: var(--glass);
  stroke: var(--ring-edge);
}
.screw {
  fill: var(--mark-light);
  stroke: var(--mark-dark);
  stroke-width: 0.6;
}
.aim {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 0.6;
}
</style>
