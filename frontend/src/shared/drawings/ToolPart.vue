<script setup lang="ts">
import { computed } from 'vue'
import type { Item } from './camera'
import { TOOLS, UPRIGHT } from './tools'

/** A tool with its tip at 0, 0: pointing down, or up. */
const props = defineProps<{ item: Item; up?: boolean }>()
const turn = computed(() => ((props.up === true) === UPRIGHT.has(props.item) ? 0 : 180))
</script>

<template>
  <g :transform="`rotate(${turn})`">
    <path v-for="(line, n) in TOOLS[item]" :key="n" :d="line.d" :class="line.fill" />
  </g>
</template>
