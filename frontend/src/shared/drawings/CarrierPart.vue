<script setup lang="ts">
import LensPart from './LensPart.vue'

/** The camera that a digital back sits on, with its lens; the back's face is at y = 0. */
</script>

<template>
  <g>
    <path d="M-78 0v-84h156v84z" class="metal" />
    <path d="M-48 0v-72h96v72z" class="inside" />
    <g transform="translate(0 -84) scale(0.7)"><LensPart /></g>
  </g>
</template>
