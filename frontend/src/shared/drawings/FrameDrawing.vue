<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { scattered, type Spread } from '@/shared/lib/scatter'

/** A test frame drawn from counts: how many of each kind, and whereabouts. Unfit ones are struck through. */
const props = defineProps<{
  framed: boolean
  fit: boolean | null
  byKind: Partial<Record<Schemas['Spot']['kind'], number>>
  where: Spread
}>()
const MOST = 60
const marks = computed(() => {
  const kinds = Object.entries(props.byKind).flatMap(([kind, n]) => Array<string>(n).fill(kind))
  const shown = kinds.slice(0, MOST)
  return scattered(shown.length, props.where).map((at, i) => ({
    kind: shown[i],
    x: 10 + 160 * at.x,
    y: 10 + 100 * at.y,
    turn: (i * 67) % 360,
  }))
})
</script>

<template>
  <svg class="drawing" viewBox="0 0 180 120" aria-hidden="true">
    <path d="M10 10h160v100h-160z" :class="framed ? 'metal' : 'limit'" />
    <text v-if="!framed" x="90" y="68" text-anchor="middle">?</text>
    <g v-for="(m, i) in marks" :key="i" :transform="`translate(${m.x} ${m.y}) rotate(${m.turn})`">
      <path v-if="m.kind === 'fibre'" d="M-9 3q9 -10 18 0" />
      <circle v-else-if="m.kind === 'droplet'" r="4" />
      <path v-else-if="m.kind === 'residue'" d="M-7 -3q7 -5 14 0q4 5 -3 7q-9 3 -11 -7z" class="soft" />
      <circle v-else-if="m.kind === 'soft'" r="8" class="limit" />
      <circle v-else r="2" class="ink" />
    </g>
    <path v-if="framed && fit === false" d="M10 110L170 10" class="limit" />
  </svg>
</template>
