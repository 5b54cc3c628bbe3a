<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** Counts by parts of the sensor, as its picture shows it: the more, the larger the dot. */
const props = defineProps<{
  title: string
  cells: Schemas['Cell'][]
  density: Schemas['Density']
}>()
const most = computed(() => Math.max(1, ...props.cells.map((c) => c.count)))
const total = computed(() => props.cells.reduce((sum, c) => sum + c.count, 0))
const says = computed(() => {
  const top = [...props.cells].sort((a, b) => b.count - a.count)[0]
  if (!top) return `${props.title}: none`
  const across = ['left', 'middle', 'right'][Math.floor((3 * top.column) / props.density.columns)]
  const down = ['top', 'middle', 'bottom'][Math.floor((3 * top.row) / props.density.rows)]
  return `${props.title}: ${total.value} spots, most at ${down} ${across}`
})
</script>

<template>
  <figure>
    <figcaption>
      {{ title }} <span class="soft">{{ total || 'none' }}</span>
    </figcaption>
    <svg :viewBox="`0 0 ${density.columns} ${density.rows}`" role="img" :aria-label="says">
      <rect :width="density.columns" :height="density.rows" />
      <circle
        v-for="c in cells"
        :key="`${c.column} ${c.row}`"
        :cx="c.column + 0.5"
        :cy="c.row + 0.5"
        :r="0.46 * Math.sqrt(c.count / most)"
      />
    </svg>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption {
  font-weight: 600;
}
figcaption .soft {
  font-weight: 400;
}
svg {
  display: block;
  width: 100%;
}
rect {
  fill: var(--surround);
}
circle {
  fill: var(--mark-dark);
}
</style>
