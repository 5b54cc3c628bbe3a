<script setup lang="ts">
import CameraPart from './CameraPart.vue'
import MoveArrow from './MoveArrow.vue'

/** The test frame as it is shot: close to an even target, focused far off, moving, the opening small. */
defineProps<{ f: number }>()
</script>

<template>
  <svg
    class="drawing"
    viewBox="0 0 420 190"
    role="img"
    :aria-label="`A camera close to an even target, focused far beyond it, at f/${f}, moving as it is shot`"
  >
    <path class="soft" d="M60 14h20v160h-20z" />
    <path class="limit" d="M84 60L214 88M84 130L214 106" />
    <g transform="translate(310 97) rotate(-90)">
      <CameraPart access="mirrorless" mouth="lens" :mirror="null" :covered="false" />
    </g>
    <g class="sways"><MoveArrow :x1="400" :y1="150" :x2="400" :y2="44" both /></g>
    <text x="20" y="104" text-anchor="middle">∞</text>
    <path class="arrow" d="M54 97h-16m5 -5l-5 5l5 5" />
    <text x="252" y="24" text-anchor="middle">f/{{ f }}</text>
  </svg>
</template>
