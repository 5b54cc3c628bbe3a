<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** What became of each spot, drawn on the sensor: told by shape, not by colour. */
const props = defineProps<{
  debrief: Schemas['HandDebrief']
  marks: Schemas['HandMark'][]
  half: [number, number]
}>()
const CROSS = 'M -0.6 -0.6 L 0.6 0.6 M -0.6 0.6 L 0.6 -0.6'
const began = computed(() => new Map(props.marks.map((m) => [m.id, m])))
const spots = computed(() =>
  props.debrief.fates.map((f) => {
    const from = began.value.get(f.id)
    const at = f.at ?? from
    return { ...f, from, x: at?.x_mm ?? 0, y: at?.y_mm ?? 0 }
  }),
)
</script>

<template>
  <g>
    <defs>
      <pattern id="left-out" width="1.2" height="1.2" patternUnits="userSpaceOnUse">
        <path class="hatch" d="M 0 1.2 L 1.2 0" />
      </pattern>
    </defs>
    <rect
      v-for="s in debrief.strips"
      :key="s.from_mm"
      class="strip"
      :x="-half[0]"
      :y="s.from_mm"
      :width="2 * half[0]"
      :height="s.to_mm - s.from_mm"
    />
    <template v-for="s in spots" :key="s.id">
      <circle v-if="s.fate === 'taken'" class="taken" :cx="s.x" :cy="s.y" r="0.6" />
      <template v-else-if="s.fate === 'dragged' || s.fate === 'at the rim'">
        <line v-if="s.at" class="way" :x1="s.from?.x_mm" :y1="s.from?.y_mm" :x2="s.x" :y2="s.y" />
        <rect class="there" :x="s.x - 0.55" :y="s.y - 0.55" width="1.1" height="1.1" />
      </template>
      <circle v-else class="there" :cx="s.x" :cy="s.y" r="0.6" />
    </template>
    <path
      v-for="(b, i) in debrief.brought"
      :key="i"
      class="came"
      :d="CROSS"
      :transform="`translate(${b.at.x_mm} ${b.at.y_mm})`"
    >
      <title>{{ b.what }}</title>
    </path>
  </g>
</template>

<style scoped>
.hatch {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 0.15;
}
.strip {
  fill: url('#left-out');
  stroke: var(--mark-light);
  stroke-width: 0.12;
}
.taken {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 0.2;
}
.there {
  fill: var(--mark-dark);
  stroke: var(--mark-light);
  stroke-width: 0.15;
}
.way {
  stroke: var(--mark-light);
  stroke-width: 0.15;
  stroke-dasharray: 0.6 0.4;
}
.came {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 0.35;
}
</style>
