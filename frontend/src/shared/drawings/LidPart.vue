<script setup lang="ts">
import { computed } from 'vue'
import { SHAPES, type Access } from './camera'

/** The body cap, or the cover of a digital back, on a mount at 0, 0. */
const props = defineProps<{ access: Access }>()
const half = computed(() => SHAPES[props.access].throat + 8)
</script>

<template>
  <path :d="`M${-half} 0v-8q0 -6 6 -6h${2 * half - 12}q6 0 6 6v8z`" class="accent" />
</template>
