<script setup lang="ts">
import CameraPart from './CameraPart.vue'
import LensPart from './LensPart.vue'

/** A lens by itself, or the camera that it does not come off. */
defineProps<{ fixed: boolean }>()
</script>

<template>
  <CameraPart v-if="fixed" access="fixed_lens" mouth="lens" :mirror="null" :covered="false" />
  <LensPart v-else />
</template>
