<script setup lang="ts">
import CameraPart from '@/shared/drawings/CameraPart.vue'
import ToolPart from '@/shared/drawings/ToolPart.vue'
import type { ExerciseName } from './practice'

/** What an exercise is about, in one picture. */
defineProps<{ exercise: ExerciseName }>()
</script>

<template>
  <svg class="drawing" viewBox="0 0 180 110" aria-hidden="true">
    <template v-if="exercise === 'frames'">
      <path class="metal" d="M20 10h140v90h-140z" />
      <circle cx="52" cy="36" r="3" class="ink" />
      <circle cx="120" cy="30" r="14" class="limit" />
      <path d="M70 74q16 -18 34 -2" />
      <path d="M134 74l6 6m0 -6l-6 6" />
      <circle cx="90" cy="50" r="2.5" class="ink" />
    </template>
    <template v-else-if="exercise === 'places'">
      <path class="metal" d="M10 22h66v66h-66z" />
      <circle cx="26" cy="36" r="4" class="ink" />
      <path class="arrow" d="M84 55h16m-6 -6l6 6l-6 6" />
      <circle cx="140" cy="55" r="36" class="metal" />
      <path class="inside" d="M118 40h44v30h-44z" />
      <circle cx="153" cy="63" r="4" class="ink" />
    </template>
    <template v-else-if="exercise === 'moves'">
      <path d="M90 104v-60" />
      <path class="metal" d="M34 14h44l12 13l-12 13h-44z" transform="translate(46 0)" />
      <path class="metal" d="M96 46h-44l-12 13l12 13h44z" />
    </template>
    <template v-else-if="exercise === 'hand'">
      <path class="inside" d="M24 34h132v66h-132z" />
      <path class="arrow" d="M44 78h88m-7 -6l7 6l-7 6" />
      <g transform="translate(66 74) scale(0.62) rotate(24)"><ToolPart item="wet_swab" /></g>
    </template>
    <template v-else>
      <g transform="translate(66 55) rotate(-90) scale(0.52)">
        <CameraPart access="mirrorless" mouth="open" :mirror="null" :covered="false" />
      </g>
      <path class="arrow" d="M124 58l12 14l22 -30" />
    </template>
  </svg>
</template>
