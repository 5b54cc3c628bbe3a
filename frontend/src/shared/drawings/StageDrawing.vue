<script setup lang="ts">
/** The three stages of patching pictures: brought, held against a test frame, written. */
defineProps<{ stage: 'bring' | 'match' | 'write' }>()
</script>

<template>
  <svg class="drawing" viewBox="0 0 120 76" aria-hidden="true">
    <template v-if="stage === 'bring'">
      <path class="soft" d="M14 24h30l8 8h54v36h-92z" />
      <path class="metal" d="M40 10h40v28h-40z" />
      <path d="M44 34l10 -12l8 8l6 -6l8 10" />
      <path class="arrow" d="M60 40v18m-7 -7l7 7l7 -7" />
    </template>
    <template v-else-if="stage === 'match'">
      <path class="metal" d="M8 16h46v40h-46z" />
      <circle cx="22" cy="30" r="3" class="ink" />
      <circle cx="40" cy="44" r="4" class="ink" />
      <path class="metal" d="M68 16h46v40h-46z" />
      <path d="M72 50l12 -16l10 10l8 -8l9 14" />
      <circle cx="82" cy="30" r="6" />
      <circle cx="100" cy="44" r="7" />
      <path class="arrow" d="M44 66h32m-6 -5l6 5l-6 5" />
    </template>
    <template v-else>
      <path class="soft" d="M14 12h52v44h-52z" />
      <path class="metal" d="M40 22h62v44h-62z" />
      <path d="M46 60l16 -20l12 12l10 -10l14 18" />
      <path class="arrow" d="M84 34l6 6l12 -14" />
    </template>
  </svg>
</template>
