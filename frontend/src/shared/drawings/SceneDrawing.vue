<script setup lang="ts">
import { computed } from 'vue'
import SceneParts from './SceneParts.vue'
import { framing, type Scene } from './camera'

/** The drawing of one instruction: it can only show what the guide's state model holds. */
const props = defineProps<{ scene: Scene }>()
const key = computed(() => JSON.stringify(props.scene))
</script>

<template>
  <svg class="drawing" :viewBox="framing(scene)" role="img" :aria-label="scene.words">
    <SceneParts :key="key" :scene="scene" />
  </svg>
</template>
