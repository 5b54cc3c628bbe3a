<script setup lang="ts">
import { LENS_LENGTH } from './camera'

/** A lens cut open, standing on its mount at 0, 0: rear glass below, front glass above. */
const H = LENS_LENGTH
</script>

<template>
  <g>
    <path :d="`M-44 0h88v${-H + 24}l8 -8v-16h-104v16l8 8z`" class="metal" />
    <path :d="`M-34 0h68v${-H + 16}h-68z`" class="inside" />
    <path :d="`M-36 ${-H + 22}q36 -22 72 0q-36 12 -72 0z`" class="soft" />
    <path d="M-28 -16q28 14 56 0q-28 -10 -56 0z" class="soft" />
    <path d="M-34 -40h18M34 -40h-18" />
  </g>
</template>
