<script setup lang="ts">
import { computed } from 'vue'
import CameraPart from './CameraPart.vue'
import type { Access } from './camera'

/** A camera of a kind, cut open, its lens to the left. */
const props = defineProps<{ access: Access }>()
const mirror = computed(() => (props.access === 'mirror' || props.access === 'fixed_mirror' ? 'down' : null))
</script>

<template>
  <svg class="drawing" viewBox="-120 -116 250 226" aria-hidden="true">
    <g :transform="`translate(${access === 'digital_back' ? 60 : 0} 0) rotate(-90)`">
      <CameraPart :access="access" mouth="lens" :mirror="mirror" :covered="false" />
    </g>
  </svg>
</template>
